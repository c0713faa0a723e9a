-- +goose Up
-- The choice of method, what was tried before, what the shop has, and what was
-- really built.

CREATE TABLE method_choice (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  piece_id BIGINT UNSIGNED NOT NULL,
  method VARCHAR(40) NOT NULL,
  advised VARCHAR(40) NOT NULL,
  place SMALLINT UNSIGNED NOT NULL,
  score DECIMAL(5,1) NOT NULL,
  reason VARCHAR(500) NOT NULL DEFAULT '',
  chosen_by BIGINT UNSIGNED NOT NULL,
  chosen_at DATETIME(6) NOT NULL,
  INDEX method_choice_latest (piece_id, id),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (chosen_by) REFERENCES person(id),
  CHECK (method <> '' AND place >= 1)
);

-- What was tried, bought or improvised, for which job, and how it went.
CREATE TABLE trial (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  method VARCHAR(40) NOT NULL DEFAULT '',
  what VARCHAR(120) NOT NULL,
  job VARCHAR(200) NOT NULL,
  region VARCHAR(32) NOT NULL DEFAULT '',
  result ENUM('worked','partly','failed') NOT NULL,
  reason VARCHAR(300) NOT NULL,
  drying VARCHAR(120) NOT NULL DEFAULT '',
  skin VARCHAR(200) NOT NULL DEFAULT '',
  piece_id BIGINT UNSIGNED NULL,
  tried_at DATETIME(6) NOT NULL,
  tried_by BIGINT UNSIGNED NOT NULL,
  INDEX trial_method (method, id),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (tried_by) REFERENCES person(id),
  CHECK (what <> '' AND job <> '' AND reason <> '')
);

CREATE TABLE equipment (
  name VARCHAR(40) PRIMARY KEY,
  has BOOLEAN NOT NULL,
  note VARCHAR(200) NOT NULL DEFAULT '',
  version INT UNSIGNED NOT NULL DEFAULT 1
);

-- What was really built, where it is not what was agreed. Rows are only added.
CREATE TABLE built_section (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  copy_id BIGINT UNSIGNED NOT NULL,
  doc JSON NOT NULL,
  reason VARCHAR(300) NOT NULL,
  noted_by BIGINT UNSIGNED NOT NULL,
  noted_at DATETIME(6) NOT NULL,
  INDEX built_section_latest (copy_id, id),
  FOREIGN KEY (copy_id) REFERENCES copy(id),
  FOREIGN KEY (noted_by) REFERENCES person(id),
  CHECK (reason <> '')
);

ALTER TABLE draft_step ADD INDEX draft_step_at (piece_id, kind, at);


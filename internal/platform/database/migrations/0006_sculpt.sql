-- +goose Up
-- The sculpting room: the texture plan is a document like brief and section;
-- what hands did to the clay is recorded beside it.

ALTER TABLE draft_step DROP FOREIGN KEY draft_step_ibfk_1;
ALTER TABLE document_version MODIFY kind ENUM('brief','section','texture') NOT NULL;
ALTER TABLE draft MODIFY kind ENUM('brief','section','texture') NOT NULL;
ALTER TABLE draft_step MODIFY kind ENUM('brief','section','texture') NOT NULL;
ALTER TABLE draft_step ADD CONSTRAINT draft_step_of FOREIGN KEY (piece_id, kind, person_id) REFERENCES draft(piece_id, kind, person_id) ON DELETE CASCADE;

-- A step of a texture plan that was done. Taking it back leaves the row, which
-- then stands no more: only one row of a step stands.
CREATE TABLE texture_tick (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  piece_id BIGINT UNSIGNED NOT NULL,
  step_key VARCHAR(120) NOT NULL,
  words VARCHAR(200) NOT NULL,
  action VARCHAR(20) NOT NULL,
  count INT UNSIGNED NOT NULL,
  plain_s DECIMAL(10,2) NOT NULL,
  actual_s DECIMAL(10,2) NULL,
  texture_number INT UNSIGNED NOT NULL,
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  back_at DATETIME(6) NULL,
  back_by BIGINT UNSIGNED NULL,
  standing TINYINT NULL DEFAULT 1,
  UNIQUE KEY texture_tick_once (piece_id, step_key, standing),
  INDEX texture_tick_hand (person_id, back_at, action),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (person_id) REFERENCES person(id),
  FOREIGN KEY (back_by) REFERENCES person(id),
  CHECK (step_key <> '' AND (actual_s IS NULL OR actual_s > 0) AND (standing IS NULL) = (back_at IS NOT NULL))
);

-- Stamps are tools of the shop.
CREATE TABLE stamp (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(24) NOT NULL,
  od_mm DECIMAL(10,3) NOT NULL,
  squash DECIMAL(5,3) NOT NULL,
  squash_b DECIMAL(5,3) NULL,
  filler VARCHAR(80) NOT NULL DEFAULT '',
  hollow_mm DECIMAL(10,3) NOT NULL DEFAULT 0,
  place VARCHAR(80) NOT NULL DEFAULT '',
  state ENUM('ready','worn','lost') NOT NULL DEFAULT 'ready',
  made_at DATETIME(6) NOT NULL,
  made_by BIGINT UNSIGNED NOT NULL,
  version INT UNSIGNED NOT NULL DEFAULT 1,
  UNIQUE KEY stamp_name (name),
  FOREIGN KEY (made_by) REFERENCES person(id),
  CHECK (name <> '' AND od_mm > 0 AND squash > 0 AND squash <= 1)
);

-- House patterns: layers to lay again, at any scale.
CREATE TABLE texture_pattern (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(60) NOT NULL,
  layers JSON NOT NULL,
  passes JSON NOT NULL,
  note VARCHAR(500) NOT NULL DEFAULT '',
  piece_id BIGINT UNSIGNED NULL,
  kept_at DATETIME(6) NOT NULL,
  kept_by BIGINT UNSIGNED NOT NULL,
  UNIQUE KEY texture_pattern_name (name),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (kept_by) REFERENCES person(id),
  CHECK (name <> '')
);

-- What softened the surface, and what it left on it.
CREATE TABLE softening_pass (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  piece_id BIGINT UNSIGNED NOT NULL,
  tool VARCHAR(40) NOT NULL,
  times SMALLINT UNSIGNED NOT NULL,
  leaves VARCHAR(20) NOT NULL DEFAULT '',
  note VARCHAR(200) NOT NULL DEFAULT '',
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  cleared_at DATETIME(6) NULL,
  cleared_by BIGINT UNSIGNED NULL,
  INDEX softening_pass_piece (piece_id, id),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (person_id) REFERENCES person(id),
  FOREIGN KEY (cleared_by) REFERENCES person(id),
  CHECK (tool <> '' AND times > 0)
);

-- A paint job tried on the sculpt, over release and a film that peels.
CREATE TABLE trial_paint (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  piece_id BIGINT UNSIGNED NOT NULL,
  texture_number INT UNSIGNED NOT NULL,
  scheme JSON NOT NULL,
  began_at DATETIME(6) NOT NULL,
  began_by BIGINT UNSIGNED NOT NULL,
  released_at DATETIME(6) NULL,
  filmed_at DATETIME(6) NULL,
  painted_at DATETIME(6) NULL,
  peeled_at DATETIME(6) NULL,
  peeled_by BIGINT UNSIGNED NULL,
  clean BOOLEAN NULL,
  verdict ENUM('keep','drop') NULL,
  corrections VARCHAR(500) NOT NULL DEFAULT '',
  reason VARCHAR(300) NOT NULL DEFAULT '',
  INDEX trial_paint_piece (piece_id, id),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (began_by) REFERENCES person(id),
  FOREIGN KEY (peeled_by) REFERENCES person(id)
);

-- The scheme of a trial that was kept for the real piece.
CREATE TABLE paint_scheme (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  piece_id BIGINT UNSIGNED NOT NULL,
  trial_id BIGINT UNSIGNED NOT NULL,
  scheme JSON NOT NULL,
  kept_at DATETIME(6) NOT NULL,
  kept_by BIGINT UNSIGNED NOT NULL,
  INDEX paint_scheme_piece (piece_id, id),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (trial_id) REFERENCES trial_paint(id),
  FOREIGN KEY (kept_by) REFERENCES person(id)
);

-- What a named person saw before the sculpt goes to its mould.
CREATE TABLE sculpt_tick (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  piece_id BIGINT UNSIGNED NOT NULL,
  item VARCHAR(20) NOT NULL,
  note VARCHAR(200) NOT NULL DEFAULT '',
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  back_at DATETIME(6) NULL,
  back_by BIGINT UNSIGNED NULL,
  standing TINYINT NULL DEFAULT 1,
  UNIQUE KEY sculpt_tick_once (piece_id, item, standing),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (person_id) REFERENCES person(id),
  FOREIGN KEY (back_by) REFERENCES person(id),
  CHECK (item <> '' AND (standing IS NULL) = (back_at IS NOT NULL))
);

-- Photographs of the real sculpt, with what was seen at a place.
CREATE TABLE sculpt_photo (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  piece_id BIGINT UNSIGNED NOT NULL,
  file_id BIGINT UNSIGNED NOT NULL,
  caption VARCHAR(200) NOT NULL,
  painted BOOLEAN NOT NULL DEFAULT FALSE,
  added_at DATETIME(6) NOT NULL,
  added_by BIGINT UNSIGNED NOT NULL,
  INDEX sculpt_photo_piece (piece_id, id),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (file_id) REFERENCES file(id),
  FOREIGN KEY (added_by) REFERENCES person(id)
);

CREATE TABLE sculpt_spot (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  photo_id BIGINT UNSIGNED NOT NULL,
  kind ENUM('thin','gap','lost line','note') NOT NULL,
  x DECIMAL(6,5) NOT NULL,
  y DECIMAL(6,5) NOT NULL,
  words VARCHAR(200) NOT NULL DEFAULT '',
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  settled_at DATETIME(6) NULL,
  settled_by BIGINT UNSIGNED NULL,
  INDEX sculpt_spot_photo (photo_id, id),
  FOREIGN KEY (photo_id) REFERENCES sculpt_photo(id),
  FOREIGN KEY (person_id) REFERENCES person(id),
  FOREIGN KEY (settled_by) REFERENCES person(id),
  CHECK (x BETWEEN 0 AND 1 AND y BETWEEN 0 AND 1)
);

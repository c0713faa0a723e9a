-- +goose Up
-- The wearer's map and the brief: what a wearer measures and reads, what stands
-- on their map, looks in stages, notes pinned on references, what was really
-- needed, and the weather of a shooting day.

CREATE TABLE performer_measure (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  performer_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(64) NOT NULL,
  mm DECIMAL(10,3) NOT NULL,
  taken_at DATETIME(6) NOT NULL,
  taken_by BIGINT UNSIGNED NULL,
  INDEX performer_measure_latest (performer_id, name, id),
  FOREIGN KEY (performer_id) REFERENCES performer(id) ON DELETE CASCADE,
  FOREIGN KEY (taken_by) REFERENCES person(id),
  CHECK (name <> '' AND mm > 0)
);

CREATE TABLE skin_reading (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  performer_id BIGINT UNSIGNED NOT NULL,
  region VARCHAR(32) NOT NULL,
  side ENUM('','L','R') NOT NULL DEFAULT '',
  source ENUM('reader','lab','srgb') NOT NULL,
  lab_l DECIMAL(7,3) NOT NULL,
  lab_a DECIMAL(7,3) NOT NULL,
  lab_b DECIMAL(7,3) NOT NULL,
  taken_at DATETIME(6) NOT NULL,
  taken_by BIGINT UNSIGNED NULL,
  INDEX skin_reading_place (performer_id, region, side, id),
  FOREIGN KEY (performer_id) REFERENCES performer(id) ON DELETE CASCADE,
  FOREIGN KEY (taken_by) REFERENCES person(id),
  CHECK (lab_l BETWEEN 0 AND 100)
);

-- Limits are facts of a person's health: rows of their own that can be erased.
CREATE TABLE performer_limit (
  performer_id BIGINT UNSIGNED NOT NULL,
  kind ENUM('sight','hearing','breathing','mouth','hours','mass','heat') NOT NULL,
  amount DECIMAL(10,2) NULL,
  note VARCHAR(300) NOT NULL DEFAULT '',
  recorded_at DATETIME(6) NOT NULL,
  recorded_by BIGINT UNSIGNED NULL,
  PRIMARY KEY (performer_id, kind),
  FOREIGN KEY (performer_id) REFERENCES performer(id) ON DELETE CASCADE,
  FOREIGN KEY (recorded_by) REFERENCES person(id),
  CHECK (amount IS NULL OR amount >= 0)
);

CREATE TABLE performer_consent (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  performer_id BIGINT UNSIGNED NOT NULL,
  what ENUM('touch and glue','life cast','photographs','showing pictures','health record') NOT NULL,
  given_on DATE NOT NULL,
  until_on DATE NULL,
  withdrawn_on DATE NULL,
  note VARCHAR(300) NOT NULL DEFAULT '',
  recorded_by BIGINT UNSIGNED NULL,
  FOREIGN KEY (performer_id) REFERENCES performer(id) ON DELETE CASCADE,
  FOREIGN KEY (recorded_by) REFERENCES person(id)
);

-- What stands on a wearer's own map: hair, folds, pull directions.
CREATE TABLE performer_map (
  performer_id BIGINT UNSIGNED PRIMARY KEY,
  marks JSON NOT NULL,
  version INT UNSIGNED NOT NULL,
  changed_at DATETIME(6) NOT NULL,
  FOREIGN KEY (performer_id) REFERENCES performer(id) ON DELETE CASCADE
);

-- One state of a character, in stages and halves; BF·hurt.
CREATE TABLE look (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  character_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(24) NOT NULL,
  stage SMALLINT UNSIGNED NOT NULL,
  left_half VARCHAR(200) NOT NULL DEFAULT '',
  right_half VARCHAR(200) NOT NULL DEFAULT '',
  note VARCHAR(500) NOT NULL DEFAULT '',
  marks JSON NOT NULL,
  version INT UNSIGNED NOT NULL,
  UNIQUE KEY look_once (character_id, name),
  FOREIGN KEY (character_id) REFERENCES `character`(id),
  CHECK (name REGEXP '^[a-z][a-z0-9 -]*$')
);

CREATE TABLE look_piece (
  look_id BIGINT UNSIGNED NOT NULL,
  piece_id BIGINT UNSIGNED NOT NULL,
  PRIMARY KEY (look_id, piece_id),
  FOREIGN KEY (look_id) REFERENCES look(id) ON DELETE CASCADE,
  FOREIGN KEY (piece_id) REFERENCES piece(id)
);

ALTER TABLE shooting_day
  ADD COLUMN sun BOOLEAN NOT NULL DEFAULT FALSE,
  ADD COLUMN rain BOOLEAN NOT NULL DEFAULT FALSE,
  ADD COLUMN source ENUM('typed','forecast') NOT NULL DEFAULT 'typed',
  ADD COLUMN version INT UNSIGNED NOT NULL DEFAULT 1;

ALTER TABLE reference_picture
  ADD COLUMN view VARCHAR(20) NOT NULL DEFAULT '',
  ADD COLUMN standing ENUM('direct','second-hand','stand-in') NOT NULL DEFAULT 'direct',
  ADD COLUMN width INT UNSIGNED NOT NULL DEFAULT 0,
  ADD COLUMN height INT UNSIGNED NOT NULL DEFAULT 0,
  ADD COLUMN version INT UNSIGNED NOT NULL DEFAULT 1;

-- Notes pinned at a point of a picture, lines traced on it, colours picked.
-- points are shares of width and height, 0 to 1.
CREATE TABLE reference_note (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  picture_id BIGINT UNSIGNED NOT NULL,
  kind ENUM('note','line','colour') NOT NULL,
  points JSON NOT NULL,
  label VARCHAR(80) NOT NULL,
  words VARCHAR(500) NOT NULL DEFAULT '',
  lab_l DECIMAL(7,3) NULL,
  lab_a DECIMAL(7,3) NULL,
  lab_b DECIMAL(7,3) NULL,
  spread DECIMAL(7,3) NULL,
  added_at DATETIME(6) NOT NULL,
  added_by BIGINT UNSIGNED NULL,
  removed_at DATETIME(6) NULL,
  INDEX reference_note_picture (picture_id, id),
  FOREIGN KEY (picture_id) REFERENCES reference_picture(id),
  FOREIGN KEY (added_by) REFERENCES person(id),
  CHECK (label <> '')
);

-- What a step really took and what was really paid, beside the brief's
-- estimates. Only ever added; a wrong one is taken back by its opposite.
CREATE TABLE piece_actual (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  piece_id BIGINT UNSIGNED NOT NULL,
  kind ENUM('hours','money') NOT NULL,
  subject VARCHAR(40) NOT NULL,
  amount DECIMAL(12,2) NOT NULL,
  note VARCHAR(200) NOT NULL DEFAULT '',
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NULL,
  key_once CHAR(36) NOT NULL UNIQUE,
  INDEX piece_actual_piece (piece_id, id),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

-- Features of the reference that somebody saw on the piece.
CREATE TABLE feature_seen (
  piece_id BIGINT UNSIGNED NOT NULL,
  feature VARCHAR(40) NOT NULL,
  seen_at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NULL,
  PRIMARY KEY (piece_id, feature),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

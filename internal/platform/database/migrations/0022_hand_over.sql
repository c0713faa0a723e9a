-- +goose Up

-- A kit is for one performer or scene, for one day or more; and it comes back.
ALTER TABLE kit
  ADD COLUMN performer_id BIGINT UNSIGNED NULL,
  ADD COLUMN scene VARCHAR(120) NOT NULL DEFAULT '',
  ADD COLUMN back_at DATETIME(6) NULL,
  ADD COLUMN back_by BIGINT UNSIGNED NULL,
  ADD CONSTRAINT kit_performer FOREIGN KEY (performer_id) REFERENCES performer(id) ON DELETE SET NULL,
  ADD CONSTRAINT kit_back_by FOREIGN KEY (back_by) REFERENCES person(id);
CREATE TABLE kit_day (
  kit_id BIGINT UNSIGNED NOT NULL,
  day_id BIGINT UNSIGNED NOT NULL,
  PRIMARY KEY (kit_id, day_id),
  INDEX kit_day_day (day_id),
  FOREIGN KEY (kit_id) REFERENCES kit(id),
  FOREIGN KEY (day_id) REFERENCES shooting_day(id)
);
INSERT IGNORE INTO kit_day (kit_id, day_id) SELECT id, day_id FROM kit;

-- A copy goes out as often as it comes back whole: in one kit at a time, not once for ever.
ALTER TABLE kit_copy ADD INDEX kit_copy_copy (copy_id), DROP KEY copy_id,
  ADD COLUMN back ENUM('','again','spent','lost') NOT NULL DEFAULT '',
  ADD COLUMN back_at DATETIME(6) NULL,
  ADD COLUMN back_words VARCHAR(300) NOT NULL DEFAULT '';
ALTER TABLE copy MODIFY state ENUM('making','made','repair','accepted','scrapped','packed','handed_over','spent') NOT NULL DEFAULT 'making';

-- What goes with the copies: worked out anew each time, and here once somebody packed it, said why it is missing, added it,
-- or counted it when it came back.
CREATE TABLE kit_item (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  kit_id BIGINT UNSIGNED NOT NULL,
  item VARCHAR(160) NOT NULL,
  kind VARCHAR(16) NOT NULL,
  name VARCHAR(160) NOT NULL,
  need DECIMAL(10,2) NOT NULL DEFAULT 0,
  unit ENUM('g','ml','pcs') NOT NULL DEFAULT 'pcs',
  why VARCHAR(300) NOT NULL DEFAULT '',
  added BOOLEAN NOT NULL DEFAULT FALSE,
  dropped_why VARCHAR(200) NOT NULL DEFAULT '',
  packed_at DATETIME(6) NULL,
  packed_by BIGINT UNSIGNED NULL,
  packed_amount DECIMAL(10,2) NULL,
  missing VARCHAR(200) NOT NULL DEFAULT '',
  back_at DATETIME(6) NULL,
  back_amount DECIMAL(10,2) NULL,
  UNIQUE KEY kit_item_once (kit_id, item),
  FOREIGN KEY (kit_id) REFERENCES kit(id),
  FOREIGN KEY (packed_by) REFERENCES person(id)
);

-- What the people of a morning decided, and what they ticked. Ticks are only ever added; one that was a mistake is taken
-- back by another.
CREATE TABLE kit_chair (
  kit_id BIGINT UNSIGNED PRIMARY KEY,
  doc JSON NOT NULL,
  version INT UNSIGNED NOT NULL DEFAULT 1,
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NULL,
  FOREIGN KEY (kit_id) REFERENCES kit(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);
CREATE TABLE chair_tick (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  kit_id BIGINT UNSIGNED NOT NULL,
  step VARCHAR(60) NOT NULL,
  kind VARCHAR(12) NOT NULL DEFAULT '',
  planned_min DECIMAL(7,1) NOT NULL DEFAULT 0,
  act ENUM('begin','done','missed','undo','comfort') NOT NULL,
  score TINYINT UNSIGNED NULL CHECK (score <= 10),
  words VARCHAR(200) NOT NULL DEFAULT '',
  at DATETIME(6) NOT NULL,
  said_at DATETIME(6) NULL,
  actor VARCHAR(120) NOT NULL DEFAULT '',
  person_id BIGINT UNSIGNED NULL,
  idem_key CHAR(36) NOT NULL UNIQUE,
  INDEX chair_tick_of (kit_id, id),
  FOREIGN KEY (kit_id) REFERENCES kit(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

-- A report is of a kind, and goes to what it is about: copy, layer, lot, stage, step of the morning.
ALTER TABLE artist_report
  MODIFY edge TINYINT UNSIGNED NULL CHECK (edge BETWEEN 1 AND 5),
  MODIFY colour TINYINT UNSIGNED NULL CHECK (colour BETWEEN 1 AND 5),
  MODIFY hold TINYINT UNSIGNED NULL CHECK (hold BETWEEN 1 AND 5),
  ADD COLUMN kind ENUM('feedback','arrival','lifted','itch','reaction','colour','better','wear','touchup','removal','other') NOT NULL DEFAULT 'feedback',
  ADD COLUMN region VARCHAR(40) NOT NULL DEFAULT '',
  ADD COLUMN step VARCHAR(60) NOT NULL DEFAULT '',
  ADD COLUMN hour_h DECIMAL(4,1) NULL,
  ADD COLUMN light VARCHAR(40) NOT NULL DEFAULT '',
  ADD COLUMN said_at DATETIME(6) NULL,
  ADD COLUMN answer VARCHAR(1000) NOT NULL DEFAULT '',
  ADD COLUMN answered_at DATETIME(6) NULL,
  ADD COLUMN answered_by BIGINT UNSIGNED NULL,
  ADD CONSTRAINT artist_report_answered FOREIGN KEY (answered_by) REFERENCES person(id),
  ADD INDEX artist_report_asked (answered_at, kind, kit_id),
  ADD INDEX artist_report_copy_of (copy_id, id);
CREATE TABLE report_picture (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  report_id BIGINT UNSIGNED NOT NULL,
  file_id BIGINT UNSIGNED NOT NULL,
  at DATETIME(6) NOT NULL,
  idem_key CHAR(36) NOT NULL UNIQUE,
  INDEX report_picture_of (report_id, id),
  FOREIGN KEY (report_id) REFERENCES artist_report(id),
  FOREIGN KEY (file_id) REFERENCES file(id)
);

-- A reaction of skin: what lay there, from which lots. Its words are of somebody's health and can be erased; closing it
-- clears nothing.
CREATE TABLE incident (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  performer_id BIGINT UNSIGNED NOT NULL,
  piece_id BIGINT UNSIGNED NOT NULL,
  copy_id BIGINT UNSIGNED NULL,
  kit_id BIGINT UNSIGNED NULL,
  report_id BIGINT UNSIGNED NULL UNIQUE,
  region VARCHAR(40) NOT NULL DEFAULT '',
  redness TINYINT UNSIGNED NOT NULL DEFAULT 2 CHECK (redness <= 3),
  words VARCHAR(1000) NOT NULL DEFAULT '',
  opened_at DATETIME(6) NOT NULL,
  closed_at DATETIME(6) NULL,
  closed_by BIGINT UNSIGNED NULL,
  closing VARCHAR(300) NOT NULL DEFAULT '',
  INDEX incident_wearer (performer_id, id),
  INDEX incident_open (closed_at),
  FOREIGN KEY (performer_id) REFERENCES performer(id) ON DELETE CASCADE,
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (copy_id) REFERENCES copy(id),
  FOREIGN KEY (kit_id) REFERENCES kit(id),
  FOREIGN KEY (report_id) REFERENCES artist_report(id),
  FOREIGN KEY (closed_by) REFERENCES person(id)
);
CREATE TABLE incident_material (
  incident_id BIGINT UNSIGNED NOT NULL,
  material_id BIGINT UNSIGNED NOT NULL,
  layer VARCHAR(64) NOT NULL DEFAULT '',
  lot_id BIGINT UNSIGNED NULL,
  PRIMARY KEY (incident_id, material_id),
  FOREIGN KEY (incident_id) REFERENCES incident(id) ON DELETE CASCADE,
  FOREIGN KEY (material_id) REFERENCES material(id),
  FOREIGN KEY (lot_id) REFERENCES lot(id)
);

-- When a page asked last: who was not reached since a recall is rung.
ALTER TABLE recall_letter ADD COLUMN written_at DATETIME(6) NOT NULL DEFAULT CURRENT_TIMESTAMP(6);
ALTER TABLE artist_link ADD COLUMN asked_at DATETIME(6) NULL;
ALTER TABLE contact ADD COLUMN phone VARCHAR(40) NOT NULL DEFAULT '';

-- +goose Down
SELECT 1;

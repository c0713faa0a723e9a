-- +goose Up

-- Substances that a shop adds to the usual list; the usual ones stand in the
-- craft.
CREATE TABLE substance (
  code VARCHAR(40) NOT NULL PRIMARY KEY,
  name VARCHAR(80) NOT NULL,
  of_class VARCHAR(40) NOT NULL DEFAULT '',
  words VARCHAR(400) NOT NULL DEFAULT '',
  added_at DATETIME(6) NOT NULL,
  added_by BIGINT UNSIGNED NULL,
  FOREIGN KEY (added_by) REFERENCES person(id),
  CHECK (code REGEXP '^[a-z0-9_-]+$' AND name <> '')
);

-- Makers and artists have sensitivities too. What was typed stays beside what it
-- was found to mean.
ALTER TABLE health_fact MODIFY performer_id BIGINT UNSIGNED NULL,
  ADD COLUMN person_id BIGINT UNSIGNED NULL AFTER performer_id,
  ADD COLUMN contact_id BIGINT UNSIGNED NULL AFTER person_id,
  ADD COLUMN words VARCHAR(200) NOT NULL DEFAULT '' AFTER substance,
  ADD UNIQUE KEY health_fact_person (person_id, substance),
  ADD UNIQUE KEY health_fact_contact (contact_id, substance),
  ADD FOREIGN KEY health_fact_of_person (person_id) REFERENCES person(id) ON DELETE CASCADE,
  ADD FOREIGN KEY health_fact_of_contact (contact_id) REFERENCES contact(id) ON DELETE CASCADE;

-- A patch test is put on, and read a day or two later by somebody. A correction
-- stands in the place of what it corrects, which is kept.
ALTER TABLE patch_test MODIFY result ENUM('open','clear','positive','void') NOT NULL,
  ADD COLUMN put_on_at DATETIME(6) NULL AFTER tested_on,
  ADD COLUMN read_at DATETIME(6) NULL AFTER result,
  ADD COLUMN read_by BIGINT UNSIGNED NULL AFTER read_at,
  ADD COLUMN note VARCHAR(300) NOT NULL DEFAULT '',
  ADD COLUMN corrects BIGINT UNSIGNED NULL,
  ADD COLUMN reason VARCHAR(300) NOT NULL DEFAULT '',
  ADD UNIQUE KEY patch_test_corrected_once (corrects),
  ADD FOREIGN KEY patch_test_corrects (corrects) REFERENCES patch_test(id) ON DELETE CASCADE,
  ADD FOREIGN KEY patch_test_read_by (read_by) REFERENCES person(id);
UPDATE patch_test SET put_on_at = ADDTIME(CAST(tested_on AS DATETIME(6)), '12:00:00'), read_at = IF(result = 'open', NULL, ADDTIME(CAST(tested_on AS DATETIME(6)), '36:00:00')), read_by = IF(result = 'open', NULL, recorded_by);

-- A performer under age: who answers for them, who stays beside them, and how
-- long the local law lets them work.
ALTER TABLE performer ADD COLUMN of_age_on DATE NULL,
  ADD COLUMN guardian VARCHAR(120) NOT NULL DEFAULT '',
  ADD COLUMN chaperone VARCHAR(120) NOT NULL DEFAULT '',
  ADD COLUMN law_hours DECIMAL(4,2) NULL;
ALTER TABLE performer_consent ADD COLUMN given_by VARCHAR(120) NOT NULL DEFAULT '';

-- What an act went on against, and why. The record says that it did; a reason that
-- tells of a person's health stands here alone.
CREATE TABLE gone_on (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  piece_id BIGINT UNSIGNED NULL,
  kind VARCHAR(20) NOT NULL,
  code VARCHAR(32) NOT NULL,
  rule VARCHAR(12) NOT NULL,
  place VARCHAR(140) NOT NULL DEFAULT '',
  reason VARCHAR(300) NOT NULL,
  INDEX gone_on_thing (kind, code, rule),
  INDEX gone_on_piece (piece_id, id),
  FOREIGN KEY (person_id) REFERENCES person(id),
  FOREIGN KEY (piece_id) REFERENCES piece(id) ON DELETE CASCADE
);

-- Which of the voices that tell a body's volume is believed, and why.
CREATE TABLE believed_amount (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  piece_id BIGINT UNSIGNED NOT NULL,
  route VARCHAR(20) NOT NULL,
  reason VARCHAR(300) NOT NULL DEFAULT '',
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  INDEX believed_amount_piece (piece_id, id),
  FOREIGN KEY (piece_id) REFERENCES piece(id) ON DELETE CASCADE,
  FOREIGN KEY (person_id) REFERENCES person(id)
);

-- What is seen on one copy is not seen on the next.
CREATE TABLE copy_feature (
  copy_id BIGINT UNSIGNED NOT NULL,
  feature VARCHAR(40) NOT NULL,
  seen_at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NULL,
  PRIMARY KEY (copy_id, feature),
  FOREIGN KEY (copy_id) REFERENCES copy(id) ON DELETE CASCADE,
  FOREIGN KEY (person_id) REFERENCES person(id)
);

-- A verdict that was a mistake is taken back, and stands as such.
ALTER TABLE verdict ADD COLUMN back_at DATETIME(6) NULL, ADD COLUMN back_by BIGINT UNSIGNED NULL, ADD COLUMN back_reason VARCHAR(300) NOT NULL DEFAULT '',
  ADD FOREIGN KEY verdict_back_by (back_by) REFERENCES person(id);

-- A weight that was read or typed wrong is put right by a line of its own.
ALTER TABLE weigh_in ADD COLUMN reason VARCHAR(200) NOT NULL DEFAULT '';

ALTER TABLE lot ADD COLUMN corrected_at DATETIME(6) NULL;

-- Which version of the sculpt a mould was taken of.
ALTER TABLE mould ADD COLUMN texture_number INT UNSIGNED NULL;

-- A kit that was packed wrong is taken apart before it leaves.
ALTER TABLE kit ADD COLUMN undone_at DATETIME(6) NULL, ADD COLUMN undone_by BIGINT UNSIGNED NULL, ADD FOREIGN KEY kit_undone_by (undone_by) REFERENCES person(id);

-- What goes into a kit beside its copies, by lot: glue, what takes it off, colour,
-- seal and powder of the day.
CREATE TABLE kit_lot (
  kit_id BIGINT UNSIGNED NOT NULL,
  lot_id BIGINT UNSIGNED NOT NULL,
  PRIMARY KEY (kit_id, lot_id),
  FOREIGN KEY (kit_id) REFERENCES kit(id),
  FOREIGN KEY (lot_id) REFERENCES lot(id)
);

-- +goose Down
SELECT 1;

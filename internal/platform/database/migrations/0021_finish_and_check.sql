-- +goose Up

-- The list of work on a copy says more of each item, and may be changed. turn is raised
-- when a repair puts an item back on the bench: it then wants its tick again.
ALTER TABLE work_item
  ADD COLUMN kind VARCHAR(16) NOT NULL DEFAULT 'other',
  ADD COLUMN text VARCHAR(160) NOT NULL DEFAULT '',
  ADD COLUMN why VARCHAR(200) NOT NULL DEFAULT '',
  ADD COLUMN minutes DECIMAL(7,1) NOT NULL DEFAULT 0,
  ADD COLUMN material VARCHAR(64) NOT NULL DEFAULT '',
  ADD COLUMN turn SMALLINT UNSIGNED NOT NULL DEFAULT 0,
  ADD COLUMN dropped_at DATETIME(6) NULL,
  ADD COLUMN dropped_by BIGINT UNSIGNED NULL,
  ADD COLUMN dropped_why VARCHAR(200) NOT NULL DEFAULT '',
  ADD CONSTRAINT work_item_dropped_by FOREIGN KEY (dropped_by) REFERENCES person(id);
UPDATE work_item SET kind = item, text = CASE item WHEN 'trim' THEN 'Flash and rim cut, nothing torn' WHEN 'seam' THEN 'Seams cut and levelled'
  WHEN 'edge' THEN 'Edge thin all round, no curl' WHEN 'colour_reading' THEN 'Read its colour in daylight, on the middle' WHEN 'photograph' THEN 'Photograph it from the front, a card in the picture'
  ELSE item END WHERE list = 'finish' AND item IN ('trim','seam','edge','colour_reading','photograph');

-- What was changed in the list of a piece: newer copies get it so.
CREATE TABLE work_change (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  piece_id BIGINT UNSIGNED NOT NULL,
  act ENUM('add','drop','move') NOT NULL,
  item VARCHAR(40) NOT NULL,
  doc JSON NULL,
  after_item VARCHAR(40) NOT NULL DEFAULT '',
  why VARCHAR(200) NOT NULL DEFAULT '',
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  INDEX work_change_piece (piece_id, id),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

ALTER TABLE finish_tick
  ADD COLUMN turn SMALLINT UNSIGNED NOT NULL DEFAULT 0,
  ADD COLUMN minutes DECIMAL(7,1) NULL,
  ADD COLUMN lot_id BIGINT UNSIGNED NULL,
  ADD CONSTRAINT finish_tick_lot FOREIGN KEY (lot_id) REFERENCES lot(id),
  ADD UNIQUE KEY finish_tick_turn (copy_id, item, turn),
  DROP KEY finish_tick_once;

-- Stretches of edge and seam of a copy: what each was measured at, and what was done to it.
CREATE TABLE rim (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  copy_id BIGINT UNSIGNED NOT NULL,
  kind ENUM('edge','seam') NOT NULL,
  name VARCHAR(80) NOT NULL,
  mark VARCHAR(40) NOT NULL DEFAULT '',
  length_mm DECIMAL(10,1) NOT NULL,
  intent ENUM('vanish','stay in view','be torn','be hidden') NOT NULL,
  hidden_by VARCHAR(120) NOT NULL DEFAULT '',
  near_eye BOOLEAN NOT NULL DEFAULT FALSE,
  moving BOOLEAN NOT NULL DEFAULT FALSE,
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  UNIQUE KEY rim_once (copy_id, kind, name),
  FOREIGN KEY (copy_id) REFERENCES copy(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);
CREATE TABLE rim_look (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  rim_id BIGINT UNSIGNED NOT NULL,
  step_mm DECIMAL(6,3) NOT NULL,
  ramp_mm DECIMAL(7,2) NOT NULL DEFAULT 0,
  de00 DECIMAL(6,2) NOT NULL DEFAULT 0,
  blend_mm DECIMAL(7,2) NOT NULL DEFAULT 0,
  how ENUM('measured','felt') NOT NULL,
  way VARCHAR(24) NOT NULL DEFAULT '',
  coats SMALLINT UNSIGNED NOT NULL DEFAULT 0,
  minutes DECIMAL(7,1) NULL,
  lot_id BIGINT UNSIGNED NULL,
  file_id BIGINT UNSIGNED NULL,
  note VARCHAR(300) NOT NULL DEFAULT '',
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  idem_key CHAR(36) NOT NULL UNIQUE,
  INDEX rim_look_of (rim_id, id),
  FOREIGN KEY (rim_id) REFERENCES rim(id),
  FOREIGN KEY (lot_id) REFERENCES lot(id),
  FOREIGN KEY (file_id) REFERENCES file(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

-- Hairs and inserts that were set, counted as they go; sent once by their key.
CREATE TABLE set_count (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  copy_id BIGINT UNSIGNED NULL,
  look_id BIGINT UNSIGNED NULL,
  of_id VARCHAR(40) NOT NULL,
  n INT NOT NULL,
  seconds DECIMAL(9,1) NOT NULL DEFAULT 0,
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  idem_key CHAR(36) NOT NULL UNIQUE,
  INDEX set_count_copy (copy_id, of_id),
  INDEX set_count_look (look_id, of_id),
  FOREIGN KEY (copy_id) REFERENCES copy(id),
  FOREIGN KEY (look_id) REFERENCES look(id) ON DELETE CASCADE,
  FOREIGN KEY (person_id) REFERENCES person(id)
);

-- Batches of inserts that were made.
CREATE TABLE insert_batch (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  piece_id BIGINT UNSIGNED NOT NULL,
  of_id VARCHAR(40) NOT NULL,
  made INT UNSIGNED NOT NULL,
  good INT UNSIGNED NOT NULL,
  minutes DECIMAL(7,1) NULL,
  lot_id BIGINT UNSIGNED NULL,
  note VARCHAR(300) NOT NULL DEFAULT '',
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  idem_key CHAR(36) NOT NULL UNIQUE,
  INDEX insert_batch_of (piece_id, of_id),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (lot_id) REFERENCES lot(id),
  FOREIGN KEY (person_id) REFERENCES person(id),
  CHECK (good <= made)
);

-- Pictures of a copy, with the card that lies in them.
CREATE TABLE copy_picture (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  copy_id BIGINT UNSIGNED NOT NULL,
  file_id BIGINT UNSIGNED NOT NULL,
  view ENUM('front','left','right','back','pose','worn','close') NOT NULL,
  light VARCHAR(40) NOT NULL DEFAULT '',
  note VARCHAR(200) NOT NULL DEFAULT '',
  width INT UNSIGNED NOT NULL,
  height INT UNSIGNED NOT NULL,
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  INDEX copy_picture_of (copy_id, id),
  FOREIGN KEY (copy_id) REFERENCES copy(id),
  FOREIGN KEY (file_id) REFERENCES file(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);
-- What is known of a picture itself, whatever it is used for: landmarks by name, the
-- fields of its card, and how many mm a share of its longer side is.
CREATE TABLE picture_about (
  file_id BIGINT UNSIGNED PRIMARY KEY,
  marks JSON NOT NULL,
  card JSON NOT NULL,
  mm_across DECIMAL(10,3) NULL,
  version INT UNSIGNED NOT NULL DEFAULT 1,
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  FOREIGN KEY (file_id) REFERENCES file(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

-- What a copy measured against something the last time: it stands with the verdict.
CREATE TABLE copy_compare (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  copy_id BIGINT UNSIGNED NOT NULL,
  file_id BIGINT UNSIGNED NOT NULL,
  with_file_id BIGINT UNSIGNED NOT NULL,
  mode ENUM('reference','mirror') NOT NULL,
  answer JSON NOT NULL,
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  INDEX copy_compare_of (copy_id, id),
  FOREIGN KEY (copy_id) REFERENCES copy(id),
  FOREIGN KEY (file_id) REFERENCES file(id),
  FOREIGN KEY (with_file_id) REFERENCES file(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

-- What was tried, felt and measured on a copy.
CREATE TABLE copy_test (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  copy_id BIGINT UNSIGNED NOT NULL,
  what VARCHAR(40) NOT NULL,
  result ENUM('good','so-so','bad') NOT NULL,
  value DECIMAL(10,3) NULL,
  place VARCHAR(80) NOT NULL DEFAULT '',
  note VARCHAR(300) NOT NULL DEFAULT '',
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  idem_key CHAR(36) NOT NULL UNIQUE,
  INDEX copy_test_of (copy_id, id),
  FOREIGN KEY (copy_id) REFERENCES copy(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);
ALTER TABLE copy_feature MODIFY feature VARCHAR(48) NOT NULL, ADD COLUMN file_id BIGINT UNSIGNED NULL, ADD COLUMN x DECIMAL(6,4) NULL, ADD COLUMN y DECIMAL(6,4) NULL,
  ADD CONSTRAINT copy_feature_file FOREIGN KEY (file_id) REFERENCES file(id);

-- Faults that were seen, what they were, and what follows.
CREATE TABLE fault (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  copy_id BIGINT UNSIGNED NOT NULL,
  fault VARCHAR(24) NOT NULL,
  material VARCHAR(16) NOT NULL DEFAULT '',
  place VARCHAR(80) NOT NULL DEFAULT '',
  file_id BIGINT UNSIGNED NULL,
  x DECIMAL(6,4) NULL,
  y DECIMAL(6,4) NULL,
  words VARCHAR(300) NOT NULL DEFAULT '',
  answers JSON NOT NULL,
  cause VARCHAR(24) NOT NULL DEFAULT '',
  believed DECIMAL(6,5) NULL,
  answered_at DATETIME(6) NULL,
  answered_by BIGINT UNSIGNED NULL,
  remedy ENUM('','repair','reuse','leave','scrap') NOT NULL DEFAULT '',
  remedy_words VARCHAR(300) NOT NULL DEFAULT '',
  minutes DECIMAL(7,1) NULL,
  mended_at DATETIME(6) NULL,
  version INT UNSIGNED NOT NULL DEFAULT 1,
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  idem_key CHAR(36) NOT NULL UNIQUE,
  INDEX fault_of (copy_id, id),
  INDEX fault_cause (fault, cause),
  FOREIGN KEY (copy_id) REFERENCES copy(id),
  FOREIGN KEY (file_id) REFERENCES file(id),
  FOREIGN KEY (answered_by) REFERENCES person(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);
-- What a fault asks to be changed next time, until somebody agrees or declines.
CREATE TABLE fault_proposal (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  fault_id BIGINT UNSIGNED NOT NULL,
  goes_to ENUM('recipe','section','mould','plan','stores','hand') NOT NULL,
  code VARCHAR(64) NOT NULL,
  text VARCHAR(300) NOT NULL,
  state ENUM('proposed','agreed','declined') NOT NULL DEFAULT 'proposed',
  reason VARCHAR(300) NOT NULL DEFAULT '',
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  settled_at DATETIME(6) NULL,
  settled_by BIGINT UNSIGNED NULL,
  UNIQUE KEY fault_proposal_once (fault_id, goes_to, code),
  INDEX fault_proposal_to (goes_to, code),
  FOREIGN KEY (fault_id) REFERENCES fault(id),
  FOREIGN KEY (person_id) REFERENCES person(id),
  FOREIGN KEY (settled_by) REFERENCES person(id)
);

ALTER TABLE copy ADD COLUMN use_as ENUM('','distant','wet','double') NOT NULL DEFAULT '';
ALTER TABLE verdict MODIFY verdict ENUM('accept','repair','downgrade','scrap') NOT NULL,
  ADD COLUMN use_as ENUM('','distant','wet','double') NOT NULL DEFAULT '',
  ADD COLUMN fault_id BIGINT UNSIGNED NULL,
  ADD COLUMN items VARCHAR(600) NOT NULL DEFAULT '',
  ADD COLUMN minutes DECIMAL(7,1) NULL,
  ADD CONSTRAINT verdict_fault FOREIGN KEY (fault_id) REFERENCES fault(id);

-- +goose Down
SELECT 1;

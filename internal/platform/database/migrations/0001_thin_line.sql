-- +goose Up
-- The thin line from brief to hand-over. Keys are BIGINT UNSIGNED, times UTC
-- DATETIME(6), masses DECIMAL(12,4) g, lengths DECIMAL(10,3) mm.

CREATE TABLE person (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  login VARCHAR(64) NOT NULL UNIQUE,
  name VARCHAR(120) NOT NULL,
  role ENUM('lead','fabricator','apprentice') NOT NULL,
  password_hash VARCHAR(255) NOT NULL,
  active BOOLEAN NOT NULL DEFAULT TRUE,
  created_at DATETIME(6) NOT NULL,
  CHECK (login <> '' AND name <> '')
);

-- Sign-in sessions of the session library; tokens are stored as hashes only.
CREATE TABLE sessions (
  token CHAR(43) PRIMARY KEY,
  data BLOB NOT NULL,
  expiry TIMESTAMP(6) NOT NULL,
  INDEX sessions_expiry (expiry)
);

CREATE TABLE bench_clock (
  id TINYINT UNSIGNED PRIMARY KEY CHECK (id = 1),
  bench_at DATETIME(6) NOT NULL
);

CREATE TABLE counter (
  name VARCHAR(32) PRIMARY KEY,
  value BIGINT UNSIGNED NOT NULL
);

CREATE TABLE file (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  sha256 CHAR(64) NOT NULL UNIQUE,
  media_type VARCHAR(100) NOT NULL,
  size BIGINT UNSIGNED NOT NULL,
  created_at DATETIME(6) NOT NULL,
  created_by BIGINT UNSIGNED NULL REFERENCES person(id)
);

CREATE TABLE production (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(120) NOT NULL UNIQUE,
  CHECK (name <> '')
);

CREATE TABLE performer (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(120) NOT NULL UNIQUE,
  excludes_animal BOOLEAN NOT NULL DEFAULT FALSE,
  keeps VARCHAR(200) NOT NULL DEFAULT '',
  CHECK (name <> '')
);

-- Health facts stand in rows of their own and can be erased.
CREATE TABLE health_fact (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  performer_id BIGINT UNSIGNED NOT NULL,
  substance VARCHAR(64) NOT NULL,
  status ENUM('allergic','sensitive','clear') NOT NULL,
  note VARCHAR(500) NOT NULL DEFAULT '',
  recorded_at DATETIME(6) NOT NULL,
  recorded_by BIGINT UNSIGNED NULL,
  UNIQUE KEY health_fact_once (performer_id, substance),
  FOREIGN KEY (performer_id) REFERENCES performer(id) ON DELETE CASCADE,
  FOREIGN KEY (recorded_by) REFERENCES person(id)
);

CREATE TABLE material (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  slug VARCHAR(64) NOT NULL UNIQUE,
  name VARCHAR(120) NOT NULL,
  family VARCHAR(40) NOT NULL,
  facts JSON NOT NULL
);

CREATE TABLE patch_test (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  performer_id BIGINT UNSIGNED NOT NULL,
  material_id BIGINT UNSIGNED NOT NULL,
  lot_code VARCHAR(32) NOT NULL DEFAULT '',
  tested_on DATE NOT NULL,
  result ENUM('open','clear','positive') NOT NULL,
  expires_on DATE NOT NULL,
  recorded_by BIGINT UNSIGNED NULL,
  FOREIGN KEY (performer_id) REFERENCES performer(id) ON DELETE CASCADE,
  FOREIGN KEY (material_id) REFERENCES material(id),
  FOREIGN KEY (recorded_by) REFERENCES person(id),
  CHECK (expires_on >= tested_on)
);

CREATE TABLE `character` (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  production_id BIGINT UNSIGNED NOT NULL,
  code VARCHAR(8) NOT NULL UNIQUE,
  name VARCHAR(120) NOT NULL,
  performer_id BIGINT UNSIGNED NULL,
  FOREIGN KEY (production_id) REFERENCES production(id),
  FOREIGN KEY (performer_id) REFERENCES performer(id),
  CHECK (code REGEXP '^[A-Z]{2,4}$')
);

CREATE TABLE shooting_day (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  production_id BIGINT UNSIGNED NOT NULL,
  day DATE NOT NULL,
  place VARCHAR(120) NOT NULL,
  temp_c DECIMAL(4,1) NOT NULL,
  rh DECIMAL(4,3) NOT NULL,
  light VARCHAR(40) NOT NULL,
  UNIQUE KEY shooting_day_once (production_id, day, place),
  FOREIGN KEY (production_id) REFERENCES production(id),
  CHECK (rh BETWEEN 0 AND 1)
);

CREATE TABLE piece (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  character_id BIGINT UNSIGNED NOT NULL,
  number SMALLINT UNSIGNED NOT NULL,
  side ENUM('','L','R') NOT NULL DEFAULT '',
  code VARCHAR(16) NOT NULL UNIQUE,
  name VARCHAR(120) NOT NULL,
  region VARCHAR(32) NOT NULL,
  place ENUM('brief','form','sculpt','mould','mix','build','colour','finish','check','handover') NOT NULL DEFAULT 'brief',
  family VARCHAR(40) NOT NULL DEFAULT '',
  copies_wanted SMALLINT UNSIGNED NOT NULL DEFAULT 1,
  created_at DATETIME(6) NOT NULL,
  FOREIGN KEY (character_id) REFERENCES `character`(id),
  CHECK (name <> '' AND copies_wanted BETWEEN 1 AND 200)
);

CREATE TABLE piece_day (
  piece_id BIGINT UNSIGNED NOT NULL,
  day_id BIGINT UNSIGNED NOT NULL,
  PRIMARY KEY (piece_id, day_id),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (day_id) REFERENCES shooting_day(id)
);

-- Agreed versions of a piece's brief and section: never changed.
CREATE TABLE document_version (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  piece_id BIGINT UNSIGNED NOT NULL,
  kind ENUM('brief','section') NOT NULL,
  number INT UNSIGNED NOT NULL,
  doc JSON NOT NULL,
  signed JSON NOT NULL,
  agreed_by BIGINT UNSIGNED NOT NULL,
  agreed_at DATETIME(6) NOT NULL,
  UNIQUE KEY document_version_once (piece_id, kind, number),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (agreed_by) REFERENCES person(id)
);

-- One draft a person, kept step by step so that undo is a step back.
CREATE TABLE draft (
  piece_id BIGINT UNSIGNED NOT NULL,
  kind ENUM('brief','section') NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  base INT UNSIGNED NOT NULL,
  at_step INT UNSIGNED NOT NULL,
  PRIMARY KEY (piece_id, kind, person_id),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

CREATE TABLE draft_step (
  piece_id BIGINT UNSIGNED NOT NULL,
  kind ENUM('brief','section') NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  step INT UNSIGNED NOT NULL,
  doc JSON NOT NULL,
  at DATETIME(6) NOT NULL,
  PRIMARY KEY (piece_id, kind, person_id, step),
  FOREIGN KEY (piece_id, kind, person_id) REFERENCES draft(piece_id, kind, person_id) ON DELETE CASCADE
);

CREATE TABLE reference_picture (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  piece_id BIGINT UNSIGNED NOT NULL,
  file_id BIGINT UNSIGNED NOT NULL,
  caption VARCHAR(200) NOT NULL,
  credit VARCHAR(200) NOT NULL DEFAULT '',
  added_at DATETIME(6) NOT NULL,
  added_by BIGINT UNSIGNED NOT NULL,
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (file_id) REFERENCES file(id),
  FOREIGN KEY (added_by) REFERENCES person(id)
);

CREATE TABLE form (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  code VARCHAR(16) NOT NULL UNIQUE,
  performer_id BIGINT UNSIGNED NULL,
  region VARCHAR(32) NOT NULL,
  material VARCHAR(80) NOT NULL,
  place VARCHAR(80) NOT NULL,
  state VARCHAR(120) NOT NULL DEFAULT '',
  made_on DATE NOT NULL,
  FOREIGN KEY (performer_id) REFERENCES performer(id)
);

CREATE TABLE mould (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  piece_id BIGINT UNSIGNED NOT NULL,
  number SMALLINT UNSIGNED NOT NULL,
  code VARCHAR(24) NOT NULL UNIQUE,
  kind VARCHAR(60) NOT NULL,
  material VARCHAR(80) NOT NULL,
  form_id BIGINT UNSIGNED NULL,
  state ENUM('wet','drying','dry','in_use','resting','repaired','retired') NOT NULL,
  release_agent VARCHAR(80) NOT NULL DEFAULT '',
  made_on DATE NOT NULL,
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (form_id) REFERENCES form(id)
);

-- How much clay or water a piece took: what the amount is worked out from.
CREATE TABLE volume_reading (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  piece_id BIGINT UNSIGNED NOT NULL,
  route ENUM('clay','water','area') NOT NULL,
  inputs JSON NOT NULL,
  volume_ml DECIMAL(12,4) NOT NULL CHECK (volume_ml > 0),
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

CREATE TABLE lot (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  code VARCHAR(32) NOT NULL,
  part ENUM('','A','B') NOT NULL DEFAULT '',
  material_id BIGINT UNSIGNED NOT NULL,
  supplier VARCHAR(80) NOT NULL DEFAULT '',
  received_on DATE NOT NULL,
  expires_on DATE NOT NULL,
  opened_on DATE NULL,
  open_life_days SMALLINT UNSIGNED NOT NULL DEFAULT 0,
  status ENUM('ok','quarantine','recalled') NOT NULL DEFAULT 'ok',
  status_reason VARCHAR(200) NOT NULL DEFAULT '',
  shelf VARCHAR(40) NOT NULL DEFAULT '',
  UNIQUE KEY lot_once (code, part),
  FOREIGN KEY (material_id) REFERENCES material(id),
  CHECK (code <> '' AND expires_on >= received_on)
);

CREATE TABLE mix (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  code VARCHAR(16) NOT NULL UNIQUE,
  piece_id BIGINT UNSIGNED NOT NULL,
  section_number INT UNSIGNED NULL,
  material_id BIGINT UNSIGNED NOT NULL,
  recipe JSON NOT NULL,
  amount JSON NOT NULL,
  planned_g DECIMAL(12,4) NOT NULL CHECK (planned_g > 0),
  pours SMALLINT UNSIGNED NOT NULL CHECK (pours > 0),
  state ENUM('planned','weighing','poured','abandoned') NOT NULL DEFAULT 'planned',
  scale_base_g DECIMAL(12,4) NOT NULL DEFAULT 0,
  carried_g DECIMAL(12,4) NOT NULL DEFAULT 0,
  contact_at DATETIME(6) NULL,
  on_scale_at DATETIME(6) NULL,
  planned_at DATETIME(6) NOT NULL,
  planned_by BIGINT UNSIGNED NOT NULL,
  ended_at DATETIME(6) NULL,
  end_reason VARCHAR(200) NOT NULL DEFAULT '',
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (material_id) REFERENCES material(id),
  FOREIGN KEY (planned_by) REFERENCES person(id)
);

CREATE TABLE mix_line (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  mix_id BIGINT UNSIGNED NOT NULL,
  seq SMALLINT UNSIGNED NOT NULL,
  ingredient VARCHAR(64) NOT NULL,
  lot_id BIGINT UNSIGNED NOT NULL,
  planned_g DECIMAL(12,4) NOT NULL CHECK (planned_g >= 0),
  done BOOLEAN NOT NULL DEFAULT FALSE,
  UNIQUE KEY mix_line_once (mix_id, seq),
  FOREIGN KEY (mix_id) REFERENCES mix(id),
  FOREIGN KEY (lot_id) REFERENCES lot(id)
);

CREATE TABLE weigh_in (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  mix_line_id BIGINT UNSIGNED NOT NULL,
  grams DECIMAL(12,4) NOT NULL,
  source ENUM('scale','typed') NOT NULL,
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  idem_key CHAR(36) NOT NULL UNIQUE,
  FOREIGN KEY (mix_line_id) REFERENCES mix_line(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

-- The ledger: what is on hand is the sum, never a number that is overwritten.
CREATE TABLE movement (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  lot_id BIGINT UNSIGNED NOT NULL,
  grams DECIMAL(12,4) NOT NULL,
  reason ENUM('received','weighed','counted','discarded') NOT NULL,
  weigh_in_id BIGINT UNSIGNED NULL UNIQUE,
  note VARCHAR(200) NOT NULL DEFAULT '',
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  INDEX movement_lot (lot_id),
  FOREIGN KEY (lot_id) REFERENCES lot(id),
  FOREIGN KEY (weigh_in_id) REFERENCES weigh_in(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

CREATE TABLE run (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  code VARCHAR(16) NOT NULL UNIQUE,
  piece_id BIGINT UNSIGNED NOT NULL,
  mix_id BIGINT UNSIGNED NOT NULL UNIQUE,
  started_at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (mix_id) REFERENCES mix(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

CREATE TABLE copy (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  piece_id BIGINT UNSIGNED NOT NULL,
  number INT UNSIGNED NOT NULL,
  code VARCHAR(24) NOT NULL UNIQUE,
  run_id BIGINT UNSIGNED NOT NULL,
  mould_id BIGINT UNSIGNED NULL,
  state ENUM('curing','demoulded','repair','accepted','scrapped','packed','handed_over') NOT NULL DEFAULT 'curing',
  reason VARCHAR(300) NOT NULL DEFAULT '',
  made_at DATETIME(6) NOT NULL,
  UNIQUE KEY copy_once (piece_id, number),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (run_id) REFERENCES run(id),
  FOREIGN KEY (mould_id) REFERENCES mould(id)
);

CREATE TABLE pot (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  piece_id BIGINT UNSIGNED NOT NULL,
  copy_id BIGINT UNSIGNED NULL,
  label VARCHAR(40) NOT NULL,
  kind ENUM('cure','dry') NOT NULL,
  family VARCHAR(40) NOT NULL,
  model JSON NOT NULL,
  observed JSON NULL,
  started_at DATETIME(6) NOT NULL,
  ended_at DATETIME(6) NULL,
  ended_by BIGINT UNSIGNED NULL,
  end_note VARCHAR(300) NOT NULL DEFAULT '',
  INDEX pot_running (ended_at),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (copy_id) REFERENCES copy(id),
  FOREIGN KEY (ended_by) REFERENCES person(id)
);

CREATE TABLE room_reading (
  at DATETIME NOT NULL PRIMARY KEY,
  temp_c DECIMAL(5,2) NOT NULL,
  rh DECIMAL(5,4) NOT NULL
);

CREATE TABLE finish_tick (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  copy_id BIGINT UNSIGNED NOT NULL,
  item ENUM('trim','seam','edge','colour_reading','photograph') NOT NULL,
  reading JSON NULL,
  note VARCHAR(300) NOT NULL DEFAULT '',
  file_id BIGINT UNSIGNED NULL,
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  UNIQUE KEY finish_tick_once (copy_id, item),
  FOREIGN KEY (copy_id) REFERENCES copy(id),
  FOREIGN KEY (file_id) REFERENCES file(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

CREATE TABLE verdict (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  copy_id BIGINT UNSIGNED NOT NULL,
  verdict ENUM('accept','repair','scrap') NOT NULL,
  reason VARCHAR(300) NOT NULL DEFAULT '',
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  FOREIGN KEY (copy_id) REFERENCES copy(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

CREATE TABLE touch_up (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  piece_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(80) NOT NULL,
  material_id BIGINT UNSIGNED NOT NULL,
  place VARCHAR(120) NOT NULL DEFAULT '',
  lab_l DECIMAL(6,2) NOT NULL,
  lab_a DECIMAL(6,2) NOT NULL,
  lab_b DECIMAL(6,2) NOT NULL,
  UNIQUE KEY touch_up_once (piece_id, name),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (material_id) REFERENCES material(id)
);

CREATE TABLE kit (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  code VARCHAR(16) NOT NULL UNIQUE,
  day_id BIGINT UNSIGNED NOT NULL,
  artist_name VARCHAR(120) NOT NULL,
  note VARCHAR(500) NOT NULL DEFAULT '',
  created_at DATETIME(6) NOT NULL,
  created_by BIGINT UNSIGNED NOT NULL,
  handed_at DATETIME(6) NULL,
  received_at DATETIME(6) NULL,
  signed_name VARCHAR(120) NOT NULL DEFAULT '',
  FOREIGN KEY (day_id) REFERENCES shooting_day(id),
  FOREIGN KEY (created_by) REFERENCES person(id)
);

CREATE TABLE kit_copy (
  kit_id BIGINT UNSIGNED NOT NULL,
  copy_id BIGINT UNSIGNED NOT NULL UNIQUE,
  PRIMARY KEY (kit_id, copy_id),
  FOREIGN KEY (kit_id) REFERENCES kit(id),
  FOREIGN KEY (copy_id) REFERENCES copy(id)
);

CREATE TABLE artist_link (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  kit_id BIGINT UNSIGNED NOT NULL,
  token_hash BINARY(32) NOT NULL UNIQUE,
  created_at DATETIME(6) NOT NULL,
  created_by BIGINT UNSIGNED NOT NULL,
  expires_at DATETIME(6) NOT NULL,
  withdrawn_at DATETIME(6) NULL,
  FOREIGN KEY (kit_id) REFERENCES kit(id),
  FOREIGN KEY (created_by) REFERENCES person(id)
);

CREATE TABLE artist_report (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  kit_id BIGINT UNSIGNED NOT NULL,
  edge TINYINT UNSIGNED NOT NULL CHECK (edge BETWEEN 1 AND 5),
  colour TINYINT UNSIGNED NOT NULL CHECK (colour BETWEEN 1 AND 5),
  hold TINYINT UNSIGNED NOT NULL CHECK (hold BETWEEN 1 AND 5),
  worn_h DECIMAL(4,1) NOT NULL DEFAULT 0,
  words VARCHAR(1000) NOT NULL DEFAULT '',
  at DATETIME(6) NOT NULL,
  idem_key CHAR(36) NOT NULL UNIQUE,
  FOREIGN KEY (kit_id) REFERENCES kit(id)
);

-- What happened, in order. Rows are only ever added.
CREATE TABLE journal (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NULL,
  actor VARCHAR(120) NOT NULL DEFAULT '',
  piece_id BIGINT UNSIGNED NULL,
  kind VARCHAR(16) NOT NULL,
  code VARCHAR(40) NOT NULL,
  act VARCHAR(40) NOT NULL,
  words VARCHAR(1000) NOT NULL DEFAULT '',
  data JSON NULL,
  completes BIGINT UNSIGNED NULL,
  idem_key CHAR(36) NULL UNIQUE,
  INDEX journal_piece (piece_id, at),
  INDEX journal_subject (kind, code),
  FOREIGN KEY (person_id) REFERENCES person(id),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (completes) REFERENCES journal(id)
);

-- +goose StatementBegin
CREATE TRIGGER journal_no_update BEFORE UPDATE ON journal FOR EACH ROW
  SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'journal rows are only ever added';
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER journal_no_delete BEFORE DELETE ON journal FOR EACH ROW
  SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'journal rows are only ever added';
-- +goose StatementEnd

-- +goose Down
-- Going back is not supported: restore a backup instead.
SELECT 1;

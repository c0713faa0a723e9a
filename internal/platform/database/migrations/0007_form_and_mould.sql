-- +goose Up
-- Forms and moulds: scans and what is computed of them, life casts, moulds with
-- their weighings, and large files that come in pieces.

-- Long work, taken by lease: whoever wins the row does it, and a holder that is
-- gone loses it when the lease ends. A job is known by its kind and its input,
-- so that nothing is worked out twice. Times are the database's own.
CREATE TABLE job (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  kind VARCHAR(40) NOT NULL,
  input_sum CHAR(64) NOT NULL,
  input JSON NOT NULL,
  state ENUM('waiting','running','done','failed','stopped') NOT NULL DEFAULT 'waiting',
  share DECIMAL(5,4) NOT NULL DEFAULT 0,
  words VARCHAR(200) NOT NULL DEFAULT '',
  holder CHAR(36) NULL,
  lease_until DATETIME(6) NULL,
  tries SMALLINT UNSIGNED NOT NULL DEFAULT 0,
  result JSON NULL,
  code VARCHAR(60) NOT NULL DEFAULT '',
  field VARCHAR(60) NOT NULL DEFAULT '',
  detail VARCHAR(500) NOT NULL DEFAULT '',
  asked_at DATETIME(6) NOT NULL,
  asked_by BIGINT UNSIGNED NULL,
  ended_at DATETIME(6) NULL,
  UNIQUE KEY job_once (kind, input_sum),
  INDEX job_next (state, lease_until, id),
  FOREIGN KEY (asked_by) REFERENCES person(id),
  CHECK ((state = 'running') = (holder IS NOT NULL)),
  CHECK ((state = 'done') = (result IS NOT NULL))
);

-- A large file under way. How much of it is there, the file itself says.
CREATE TABLE upload (
  id CHAR(36) PRIMARY KEY,
  person_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(200) NOT NULL,
  size BIGINT UNSIGNED NOT NULL,
  mark VARCHAR(100) NOT NULL,
  began_at DATETIME(6) NOT NULL,
  touched_at DATETIME(6) NOT NULL,
  UNIQUE KEY upload_same (person_id, mark),
  FOREIGN KEY (person_id) REFERENCES person(id),
  CHECK (name <> '' AND size > 0)
);

ALTER TABLE form
  ADD COLUMN kind ENUM('life cast','general form','core','stand') NOT NULL DEFAULT 'life cast' AFTER performer_id,
  ADD COLUMN taken_how VARCHAR(300) NOT NULL DEFAULT '',
  ADD COLUMN version INT UNSIGNED NOT NULL DEFAULT 1;

-- Which form a piece is built on, and how near it has to fit.
CREATE TABLE piece_form (
  piece_id BIGINT UNSIGNED PRIMARY KEY,
  form_id BIGINT UNSIGNED NULL,
  fit ENUM('own cast','general form','anything of that shape') NOT NULL,
  note VARCHAR(300) NOT NULL DEFAULT '',
  chosen_at DATETIME(6) NOT NULL,
  chosen_by BIGINT UNSIGNED NOT NULL,
  INDEX piece_form_form (form_id),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (form_id) REFERENCES form(id),
  FOREIGN KEY (chosen_by) REFERENCES person(id)
);

CREATE TABLE scan (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  form_id BIGINT UNSIGNED NULL,
  piece_id BIGINT UNSIGNED NULL,
  file_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(200) NOT NULL,
  stage VARCHAR(80) NOT NULL DEFAULT '',
  part VARCHAR(20) NOT NULL,
  unit ENUM('mm','cm','in','m') NULL,
  noise_mm DECIMAL(5,3) NOT NULL DEFAULT 0.15,
  core_id BIGINT UNSIGNED NULL,
  look_job BIGINT UNSIGNED NOT NULL,
  measure_job BIGINT UNSIGNED NULL,
  added_at DATETIME(6) NOT NULL,
  added_by BIGINT UNSIGNED NOT NULL,
  aside_at DATETIME(6) NULL,
  version INT UNSIGNED NOT NULL DEFAULT 1,
  INDEX scan_of_form (form_id, id),
  INDEX scan_of_piece (piece_id, id),
  FOREIGN KEY (form_id) REFERENCES form(id),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (file_id) REFERENCES file(id),
  FOREIGN KEY (core_id) REFERENCES scan(id),
  FOREIGN KEY (look_job) REFERENCES job(id),
  FOREIGN KEY (measure_job) REFERENCES job(id),
  FOREIGN KEY (added_by) REFERENCES person(id),
  CHECK ((form_id IS NULL) <> (piece_id IS NULL)),
  CHECK (name <> '' AND noise_mm > 0)
);

-- A life cast is planned before it is taken; what stands on the list must be
-- seen before the clock starts; then it is written down as it goes.
CREATE TABLE life_cast (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  performer_id BIGINT UNSIGNED NOT NULL,
  region VARCHAR(32) NOT NULL,
  plan JSON NOT NULL,
  planned_at DATETIME(6) NOT NULL,
  planned_by BIGINT UNSIGNED NOT NULL,
  began_at DATETIME(6) NULL,
  began_by BIGINT UNSIGNED NULL,
  ended_at DATETIME(6) NULL,
  form_id BIGINT UNSIGNED NULL,
  verdict VARCHAR(300) NOT NULL DEFAULT '',
  INDEX life_cast_open (ended_at, id),
  FOREIGN KEY (performer_id) REFERENCES performer(id),
  FOREIGN KEY (planned_by) REFERENCES person(id),
  FOREIGN KEY (began_by) REFERENCES person(id),
  FOREIGN KEY (form_id) REFERENCES form(id),
  CHECK (ended_at IS NULL OR began_at IS NOT NULL)
);

CREATE TABLE life_cast_tick (
  life_cast_id BIGINT UNSIGNED NOT NULL,
  item VARCHAR(40) NOT NULL,
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  PRIMARY KEY (life_cast_id, item),
  FOREIGN KEY (life_cast_id) REFERENCES life_cast(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

CREATE TABLE life_cast_event (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  life_cast_id BIGINT UNSIGNED NOT NULL,
  kind ENUM('mixed','on the skin','jacket on','sagged','air trapped','stopped','off the skin','cast poured','corrected','note') NOT NULL,
  words VARCHAR(300) NOT NULL DEFAULT '',
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  idem_key CHAR(36) NOT NULL UNIQUE,
  INDEX life_cast_event_of (life_cast_id, id),
  FOREIGN KEY (life_cast_id) REFERENCES life_cast(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

-- The build sheet of a mould, as it was planned.
CREATE TABLE mould_plan (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  piece_id BIGINT UNSIGNED NOT NULL,
  doc JSON NOT NULL,
  planned_at DATETIME(6) NOT NULL,
  planned_by BIGINT UNSIGNED NOT NULL,
  INDEX mould_plan_piece (piece_id, id),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (planned_by) REFERENCES person(id)
);

CREATE TABLE mould_plan_tick (
  plan_id BIGINT UNSIGNED NOT NULL,
  item VARCHAR(60) NOT NULL,
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  PRIMARY KEY (plan_id, item),
  FOREIGN KEY (plan_id) REFERENCES mould_plan(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

ALTER TABLE mould
  MODIFY state ENUM('wet','drying','dry','hot','in_use','resting','repaired','retired') NOT NULL,
  ADD COLUMN plan_id BIGINT UNSIGNED NULL,
  ADD COLUMN parts SMALLINT UNSIGNED NOT NULL DEFAULT 1,
  ADD COLUMN separator_used VARCHAR(80) NOT NULL DEFAULT '',
  ADD COLUMN place VARCHAR(80) NOT NULL DEFAULT '',
  ADD COLUMN life SMALLINT UNSIGNED NULL,
  ADD COLUMN wall_mm DECIMAL(6,2) NULL,
  ADD COLUMN dry_kg DECIMAL(10,4) NULL,
  ADD COLUMN set_at DATETIME(6) NULL,
  ADD COLUMN note VARCHAR(300) NOT NULL DEFAULT '',
  ADD COLUMN version INT UNSIGNED NOT NULL DEFAULT 1,
  ADD CONSTRAINT mould_plan_of FOREIGN KEY (plan_id) REFERENCES mould_plan(id),
  ADD CONSTRAINT mould_dry CHECK (dry_kg IS NULL OR dry_kg > 0);

-- A mould on the scale. A later row may stand in for one that was wrong; a move
-- to another place begins a new curve.
CREATE TABLE mould_weighing (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  mould_id BIGINT UNSIGNED NOT NULL,
  kg DECIMAL(10,4) NOT NULL,
  at DATETIME(6) NOT NULL,
  place VARCHAR(80) NOT NULL DEFAULT '',
  source ENUM('typed','scale') NOT NULL,
  corrects BIGINT UNSIGNED NULL UNIQUE,
  person_id BIGINT UNSIGNED NOT NULL,
  idem_key CHAR(36) NOT NULL UNIQUE,
  INDEX mould_weighing_of (mould_id, at),
  FOREIGN KEY (mould_id) REFERENCES mould(id),
  FOREIGN KEY (corrects) REFERENCES mould_weighing(id),
  FOREIGN KEY (person_id) REFERENCES person(id),
  CHECK (kg > 0)
);

-- What was seen when a copy came out: it comes back to the mould.
CREATE TABLE mould_mark (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  mould_id BIGINT UNSIGNED NOT NULL,
  copy_id BIGINT UNSIGNED NULL,
  kind ENUM('clean','tear','hole','bubble','stuck','thin','flash') NOT NULL,
  place VARCHAR(60) NOT NULL DEFAULT '',
  words VARCHAR(200) NOT NULL DEFAULT '',
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  idem_key CHAR(36) NOT NULL UNIQUE,
  INDEX mould_mark_of (mould_id, id),
  FOREIGN KEY (mould_id) REFERENCES mould(id),
  FOREIGN KEY (copy_id) REFERENCES copy(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

CREATE TABLE mould_photo (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  mould_id BIGINT UNSIGNED NOT NULL,
  file_id BIGINT UNSIGNED NOT NULL,
  caption VARCHAR(200) NOT NULL,
  added_at DATETIME(6) NOT NULL,
  added_by BIGINT UNSIGNED NOT NULL,
  INDEX mould_photo_of (mould_id, id),
  FOREIGN KEY (mould_id) REFERENCES mould(id),
  FOREIGN KEY (file_id) REFERENCES file(id),
  FOREIGN KEY (added_by) REFERENCES person(id)
);

-- A mould stands on the pot shelf while it sets and dries.
ALTER TABLE pot
  MODIFY kind ENUM('cure','dry','mould') NOT NULL,
  ADD COLUMN mould_id BIGINT UNSIGNED NULL,
  ADD CONSTRAINT pot_mould FOREIGN KEY (mould_id) REFERENCES mould(id);

ALTER TABLE volume_reading MODIFY route ENUM('clay','water','area','displacement','scan') NOT NULL;

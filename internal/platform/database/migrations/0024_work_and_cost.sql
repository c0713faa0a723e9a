-- A stretch of somebody's work: what hands were at, from when to when. One is open of a person at most. Minutes that were not
-- interrupted become the next guess of what such work takes.
CREATE TABLE work_span (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  person_id BIGINT UNSIGNED NOT NULL,
  act VARCHAR(60) NOT NULL,
  code VARCHAR(60) NOT NULL DEFAULT '',
  title VARCHAR(200) NOT NULL,
  step VARCHAR(160) NOT NULL DEFAULT '',
  piece_id BIGINT UNSIGNED NULL,
  units SMALLINT UNSIGNED NOT NULL DEFAULT 1,
  planned_min SMALLINT UNSIGNED NULL,
  began_at DATETIME(6) NOT NULL,
  ended_at DATETIME(6) NULL,
  interrupted BOOLEAN NOT NULL DEFAULT FALSE,
  later BOOLEAN NOT NULL DEFAULT FALSE,
  note VARCHAR(400) NOT NULL DEFAULT '',
  by_id BIGINT UNSIGNED NOT NULL,
  back_at DATETIME(6) NULL,
  idem_key CHAR(36) NULL UNIQUE,
  open_of BIGINT UNSIGNED NULL UNIQUE,
  INDEX work_span_person (person_id, began_at),
  INDEX work_span_piece (piece_id, began_at),
  FOREIGN KEY (person_id) REFERENCES person(id),
  FOREIGN KEY (by_id) REFERENCES person(id),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  CHECK (ended_at IS NULL OR ended_at > began_at),
  CHECK (units > 0)
);

-- Whether an oven may run with nobody beside it stands with the oven, and nowhere else.
UPDATE place SET alone = TRUE WHERE kind = 'oven' AND EXISTS (SELECT 1 FROM hours_change WHERE kind = 'night' AND back_at IS NULL);
UPDATE hours_change SET back_at = at WHERE kind = 'night' AND back_at IS NULL;

-- The week of somebody: from when to when they are in on which days (bits, Monday is 1), and until when they may stay on. Who has none
-- has the shop's. Crafts are what they do; none is all.
CREATE TABLE person_week (
  person_id BIGINT UNSIGNED PRIMARY KEY,
  days TINYINT UNSIGNED NOT NULL,
  from_min SMALLINT UNSIGNED NOT NULL,
  to_min SMALLINT UNSIGNED NOT NULL,
  late_min SMALLINT UNSIGNED NOT NULL,
  crafts SET('sculpt','mould','make','finish') NOT NULL DEFAULT '',
  by_id BIGINT UNSIGNED NOT NULL,
  at DATETIME(6) NOT NULL,
  FOREIGN KEY (person_id) REFERENCES person(id),
  FOREIGN KEY (by_id) REFERENCES person(id),
  CHECK (days < 128),
  CHECK (from_min < to_min AND to_min <= late_min AND late_min <= 1440)
);

-- What the plan in force was made of: while that is the same, it stays as it is.
ALTER TABLE run_up_plan ADD COLUMN made_of CHAR(64) NOT NULL DEFAULT '';

-- Work that no piece asks for: a meeting, a repair, a delivery to be taken in. The run-up plans around it.
CREATE TABLE other_work (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  text VARCHAR(120) NOT NULL,
  person_id BIGINT UNSIGNED NULL,
  minutes SMALLINT UNSIGNED NOT NULL,
  from_at DATETIME(6) NULL,
  by_at DATETIME(6) NULL,
  by_id BIGINT UNSIGNED NOT NULL,
  at DATETIME(6) NOT NULL,
  done_at DATETIME(6) NULL,
  back_at DATETIME(6) NULL,
  INDEX other_work_open (done_at, back_at),
  FOREIGN KEY (person_id) REFERENCES person(id),
  FOREIGN KEY (by_id) REFERENCES person(id),
  CHECK (minutes > 0)
);

-- A step that somebody put where it is to stay. One of a step is in force at most.
CREATE TABLE plan_pin (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  step VARCHAR(160) NOT NULL,
  text VARCHAR(200) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  start_at DATETIME(6) NOT NULL,
  end_at DATETIME(6) NOT NULL,
  by_id BIGINT UNSIGNED NOT NULL,
  at DATETIME(6) NOT NULL,
  back_at DATETIME(6) NULL,
  of_step VARCHAR(160) NULL UNIQUE,
  FOREIGN KEY (person_id) REFERENCES person(id),
  FOREIGN KEY (by_id) REFERENCES person(id),
  CHECK (start_at < end_at)
);

-- A change that somebody wants to see beside the plan.
CREATE TABLE plan_try (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  doc JSON NOT NULL,
  by_id BIGINT UNSIGNED NOT NULL,
  at DATETIME(6) NOT NULL,
  back_at DATETIME(6) NULL,
  INDEX plan_try_open (back_at),
  FOREIGN KEY (by_id) REFERENCES person(id)
);

-- What the shop's money is and what its time is charged at. Rows are only added; the newest is in force. Where there is none the
-- program's own figures stand, and say so.
CREATE TABLE money_terms (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  doc JSON NOT NULL,
  by_id BIGINT UNSIGNED NOT NULL,
  at DATETIME(6) NOT NULL,
  FOREIGN KEY (by_id) REFERENCES person(id)
);

-- What was offered for a piece, as it was worked out then. Rows are only added.
CREATE TABLE quote (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  piece_id BIGINT UNSIGNED NOT NULL,
  number SMALLINT UNSIGNED NOT NULL,
  doc JSON NOT NULL,
  price_minor BIGINT NOT NULL,
  by_id BIGINT UNSIGNED NOT NULL,
  at DATETIME(6) NOT NULL,
  UNIQUE (piece_id, number),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (by_id) REFERENCES person(id)
);

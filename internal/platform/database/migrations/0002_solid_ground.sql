-- +goose Up
-- Who is signed in, on what, and since when; each can be ended alone.
CREATE TABLE sign_in (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  person_id BIGINT UNSIGNED NOT NULL,
  device VARCHAR(120) NOT NULL,
  address VARCHAR(45) NOT NULL,
  at DATETIME(6) NOT NULL,
  seen_at DATETIME(6) NOT NULL,
  ended_at DATETIME(6) NULL,
  ended_by BIGINT UNSIGNED NULL,
  INDEX sign_in_open (ended_at, seen_at),
  INDEX sign_in_person (person_id, ended_at),
  FOREIGN KEY (person_id) REFERENCES person(id),
  FOREIGN KEY (ended_by) REFERENCES person(id)
);

-- Failed sign-ins slow the next ones, per account and per address.
CREATE TABLE sign_in_failure (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  login VARCHAR(64) NOT NULL,
  address VARCHAR(45) NOT NULL,
  at DATETIME(6) NOT NULL,
  INDEX sign_in_failure_login (login, at),
  INDEX sign_in_failure_address (address, at)
);

-- From which device an act came.
ALTER TABLE journal ADD COLUMN device VARCHAR(120) NOT NULL DEFAULT '' AFTER actor,
  ADD INDEX journal_at (at), ADD INDEX journal_person (person_id, at);

-- +goose Down
SELECT 1;

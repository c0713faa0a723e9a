-- +goose Up

-- An act that is sent again counts once: its key is left in the act itself.
CREATE TABLE act_key (
  id CHAR(36) NOT NULL PRIMARY KEY,
  person_id BIGINT UNSIGNED NOT NULL,
  what VARCHAR(80) NOT NULL,
  at DATETIME(6) NOT NULL,
  answer MEDIUMBLOB NULL,
  INDEX act_key_at (at)
);

-- A browser that somebody signed in from: strangers' wrong tries never shut it out.
CREATE TABLE known_device (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  person_id BIGINT UNSIGNED NOT NULL,
  token_hash BINARY(32) NOT NULL,
  seen_at DATETIME(6) NOT NULL,
  UNIQUE INDEX known_device_once (token_hash, person_id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);
ALTER TABLE sign_in_failure ADD COLUMN device BIGINT UNSIGNED NULL, ADD INDEX sign_in_failure_device (device, at);

-- The longest words of an act, with what the act itself says around them.
ALTER TABLE journal MODIFY words VARCHAR(4000) NOT NULL DEFAULT '';

-- What came back from a backup, and what the shop answered about the time between.
CREATE TABLE restored (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  made_at DATETIME(6) NOT NULL,
  restored_at DATETIME(6) NOT NULL,
  missing TEXT NOT NULL,
  answered_at DATETIME(6) NULL,
  answered_by BIGINT UNSIGNED NULL,
  FOREIGN KEY (answered_by) REFERENCES person(id)
);

-- +goose Down
SELECT 1;

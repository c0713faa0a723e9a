-- +goose Up

-- Where things wait: racks, cold rooms, warm boxes, ovens. The room itself is none of them.
CREATE TABLE place (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  code VARCHAR(40) NOT NULL UNIQUE,
  name VARCHAR(60) NOT NULL,
  kind ENUM('rack','cold','warm_box','oven') NOT NULL,
  -- A lead allowed it to be warm with nobody beside it.
  alone BOOLEAN NOT NULL DEFAULT FALSE,
  -- A flame burns there: nothing flammable and wet comes near.
  flame BOOLEAN NOT NULL DEFAULT FALSE,
  retired_at DATETIME(6) NULL
);

-- What a place was set to, and when; no temperature is off.
CREATE TABLE place_setting (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  place_id BIGINT UNSIGNED NOT NULL,
  at DATETIME(6) NOT NULL,
  set_c DECIMAL(5,1) NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  INDEX place_setting_at (place_id, at),
  FOREIGN KEY (place_id) REFERENCES place(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

-- What a place's own probe or thermometer showed.
CREATE TABLE place_reading (
  place_id BIGINT UNSIGNED NOT NULL,
  at DATETIME NOT NULL,
  temp_c DECIMAL(5,2) NOT NULL,
  rh DECIMAL(5,4) NULL,
  source ENUM('sensor','typed') NOT NULL,
  typed_by BIGINT UNSIGNED NULL,
  PRIMARY KEY (place_id, at),
  INDEX place_reading_at (at),
  FOREIGN KEY (place_id) REFERENCES place(id),
  FOREIGN KEY (typed_by) REFERENCES person(id)
);

-- Where a pot stood since when; without a row it stands in the room.
CREATE TABLE pot_place (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  pot_id BIGINT UNSIGNED NOT NULL,
  place_id BIGINT UNSIGNED NULL,
  from_at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  INDEX pot_place_from (pot_id, from_at, id),
  FOREIGN KEY (pot_id) REFERENCES pot(id),
  FOREIGN KEY (place_id) REFERENCES place(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

-- Who took a ringing pot in hand.
ALTER TABLE pot ADD COLUMN answered_at DATETIME(6) NULL, ADD COLUMN answered_by BIGINT UNSIGNED NULL,
  ADD CONSTRAINT pot_answered_by FOREIGN KEY (answered_by) REFERENCES person(id);

-- What a piece weighed while its coat dried: what it loses is its water.
CREATE TABLE pot_weight (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  pot_id BIGINT UNSIGNED NOT NULL,
  at DATETIME(6) NOT NULL,
  grams DECIMAL(10,3) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  INDEX pot_weight_at (pot_id, at),
  FOREIGN KEY (pot_id) REFERENCES pot(id),
  FOREIGN KEY (person_id) REFERENCES person(id),
  CHECK (grams > 0)
);

-- What a stage was told to wait, and how long hands were at it.
ALTER TABLE run_stage ADD COLUMN expected_s DOUBLE NULL, ADD COLUMN hand_s DOUBLE NULL;

-- What a copy weighed and what was wrong with it as it came out, and where.
ALTER TABLE copy ADD COLUMN out_g DECIMAL(10,2) NULL;
CREATE TABLE copy_fault (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  copy_id BIGINT UNSIGNED NOT NULL,
  at DATETIME(6) NOT NULL,
  kind ENUM('bubble','tear','thin','short','sticky','seam','fold','other') NOT NULL,
  zone VARCHAR(60) NOT NULL,
  words VARCHAR(200) NOT NULL DEFAULT '',
  person_id BIGINT UNSIGNED NOT NULL,
  INDEX copy_fault_copy (copy_id, id),
  FOREIGN KEY (copy_id) REFERENCES copy(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

-- While a piece is built on its wearer somebody asks how it is, 0 to 10.
CREATE TABLE comfort_check (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  run_id BIGINT UNSIGNED NOT NULL,
  at DATETIME(6) NOT NULL,
  comfort TINYINT UNSIGNED NOT NULL,
  words VARCHAR(200) NOT NULL DEFAULT '',
  person_id BIGINT UNSIGNED NOT NULL,
  INDEX comfort_check_at (run_id, at),
  FOREIGN KEY (run_id) REFERENCES run(id),
  FOREIGN KEY (person_id) REFERENCES person(id),
  CHECK (comfort <= 10)
);

-- What was found dry belongs to a product and to where it stood.
ALTER TABLE dry_sign MODIFY place VARCHAR(100) NOT NULL, MODIFY stage ENUM('touch','dry','weight') NOT NULL, ADD COLUMN product VARCHAR(60) NOT NULL DEFAULT '';

-- +goose Down
SELECT 1;

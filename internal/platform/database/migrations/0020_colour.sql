-- +goose Up

-- A wearer's skin is read by whole spectra too.
ALTER TABLE skin_reading MODIFY source ENUM('reader','lab','srgb','spectrum') NOT NULL, ADD COLUMN spectrum JSON NULL;

-- Lights that sets are lit with, by their power at each band of 10 nm from 380 to 730.
CREATE TABLE set_light (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(40) NOT NULL UNIQUE,
  power JSON NOT NULL,
  resampled BOOLEAN NOT NULL,
  origin VARCHAR(160) NOT NULL,
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  FOREIGN KEY (person_id) REFERENCES person(id)
);

-- Colours that were made, with what was in them. Their readings stand in `reading`.
CREATE TABLE swatch (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(80) NOT NULL,
  material_id BIGINT UNSIGNED NOT NULL,
  piece_id BIGINT UNSIGNED NULL,
  mix_id BIGINT UNSIGNED NULL,
  parts JSON NOT NULL,
  thickness_mm DECIMAL(7,3) NULL,
  backing VARCHAR(16) NOT NULL,
  light VARCHAR(40) NOT NULL,
  file_id BIGINT UNSIGNED NULL,
  note VARCHAR(300) NOT NULL DEFAULT '',
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  FOREIGN KEY (material_id) REFERENCES material(id),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (mix_id) REFERENCES mix(id),
  FOREIGN KEY (file_id) REFERENCES file(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

-- What a piece is to look like: one stands, each change is in the record.
CREATE TABLE colour_target (
  piece_id BIGINT UNSIGNED PRIMARY KEY,
  kind ENUM('skin','swatch','wish','picture') NOT NULL,
  region VARCHAR(24) NOT NULL DEFAULT '',
  side VARCHAR(1) NOT NULL DEFAULT '',
  swatch_id BIGINT UNSIGNED NULL,
  reading JSON NULL,
  words VARCHAR(200) NOT NULL DEFAULT '',
  tan_steps DECIMAL(4,1) NOT NULL DEFAULT 0,
  allowed DECIMAL(4,1) NULL,
  version INT UNSIGNED NOT NULL DEFAULT 1,
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (swatch_id) REFERENCES swatch(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

-- Recipes for the body of a piece that somebody took, each with the mix that it was made in.
CREATE TABLE colour_recipe (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  code VARCHAR(16) NOT NULL UNIQUE,
  piece_id BIGINT UNSIGNED NOT NULL,
  section_number INT UNSIGNED NOT NULL,
  layer VARCHAR(40) NOT NULL,
  material_id BIGINT UNSIGNED NOT NULL,
  after_id BIGINT UNSIGNED NULL,
  mix_id BIGINT UNSIGNED NULL,
  base VARCHAR(16) NOT NULL,
  thickness_mm DECIMAL(7,3) NOT NULL,
  target JSON NOT NULL,
  parts JSON NOT NULL,
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  INDEX colour_recipe_piece (piece_id, id),
  FOREIGN KEY (piece_id) REFERENCES piece(id),
  FOREIGN KEY (material_id) REFERENCES material(id),
  FOREIGN KEY (after_id) REFERENCES colour_recipe(id),
  FOREIGN KEY (mix_id) REFERENCES mix(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

ALTER TABLE reading MODIFY subject ENUM('copy','piece','stage','mix','mould','lot','swatch','drawdown') NOT NULL;

-- Drawdowns of a recipe that were read, with what was to be added.
CREATE TABLE drawdown (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  recipe_id BIGINT UNSIGNED NOT NULL,
  thickness_mm DECIMAL(7,3) NOT NULL,
  backing VARCHAR(16) NOT NULL,
  base_g DECIMAL(12,4) NOT NULL,
  answer JSON NOT NULL,
  added_at DATETIME(6) NULL,
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  INDEX drawdown_recipe (recipe_id, id),
  FOREIGN KEY (recipe_id) REFERENCES colour_recipe(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

-- What a shop's own pigments do to a colour, from drawdowns of one lot.
CREATE TABLE calibration (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  material_id BIGINT UNSIGNED NOT NULL,
  lot_id BIGINT UNSIGNED NULL,
  base VARCHAR(16) NOT NULL,
  way ENUM('pair','single') NOT NULL,
  class VARCHAR(16) NOT NULL DEFAULT '',
  amount DECIMAL(8,4) NOT NULL,
  thickness_mm DECIMAL(7,3) NOT NULL,
  k JSON NOT NULL,
  s JSON NOT NULL,
  weak JSON NOT NULL,
  rms DECIMAL(8,5) NOT NULL,
  off_de DECIMAL(6,2) NOT NULL,
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  INDEX calibration_material (material_id, id),
  FOREIGN KEY (material_id) REFERENCES material(id),
  FOREIGN KEY (lot_id) REFERENCES lot(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

-- Colours that the parts of a look share.
CREATE TABLE palette (
  look_id BIGINT UNSIGNED PRIMARY KEY,
  doc JSON NOT NULL,
  version INT UNSIGNED NOT NULL,
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  FOREIGN KEY (look_id) REFERENCES look(id) ON DELETE CASCADE,
  FOREIGN KEY (person_id) REFERENCES person(id)
);

-- How colour is put on so that it looks like something, tried and kept.
CREATE TABLE technique_card (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(40) NOT NULL UNIQUE,
  tool VARCHAR(16) NOT NULL,
  width_mm DECIMAL(6,2) NULL,
  distance_mm DECIMAL(7,1) NULL,
  dilution DECIMAL(6,2) NULL,
  film_mm DECIMAL(6,4) NULL,
  coverage DECIMAL(5,4) NULL,
  load_words VARCHAR(120) NOT NULL DEFAULT '',
  instead VARCHAR(160) NOT NULL DEFAULT '',
  swatch_id BIGINT UNSIGNED NULL,
  note VARCHAR(300) NOT NULL DEFAULT '',
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  FOREIGN KEY (swatch_id) REFERENCES swatch(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

-- How a look stood on a day, so that the next day can follow it.
CREATE TABLE continuity (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  look_id BIGINT UNSIGNED NOT NULL,
  day_id BIGINT UNSIGNED NOT NULL,
  file_id BIGINT UNSIGNED NOT NULL,
  note VARCHAR(200) NOT NULL DEFAULT '',
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  INDEX continuity_look (look_id, day_id),
  FOREIGN KEY (look_id) REFERENCES look(id) ON DELETE CASCADE,
  FOREIGN KEY (day_id) REFERENCES shooting_day(id) ON DELETE CASCADE,
  FOREIGN KEY (file_id) REFERENCES file(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

-- +goose Down
SELECT 1;

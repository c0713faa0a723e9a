-- +goose Up

-- A mix is made by a house recipe, for a piece or for the shop: what is not poured
-- is put by as a lot, used up, or thrown away with its reason. One may be divided.
ALTER TABLE mix
  MODIFY piece_id BIGINT UNSIGNED NULL,
  MODIFY state ENUM('planned','weighing','poured','abandoned','put_by','used') NOT NULL DEFAULT 'planned',
  ADD COLUMN recipe_slug VARCHAR(80) NOT NULL DEFAULT '' AFTER recipe,
  ADD COLUMN recipe_number INT UNSIGNED NOT NULL DEFAULT 0 AFTER recipe_slug,
  ADD COLUMN parent_id BIGINT UNSIGNED NULL,
  ADD COLUMN share DECIMAL(9,6) NOT NULL DEFAULT 1,
  ADD COLUMN water_c DECIMAL(5,2) NULL,
  ADD COLUMN room_c DECIMAL(5,2) NULL,
  ADD COLUMN rh DECIMAL(5,3) NULL,
  ADD COLUMN note VARCHAR(300) NOT NULL DEFAULT '',
  ADD COLUMN confirmed JSON NULL,
  ADD COLUMN mould_id BIGINT UNSIGNED NULL,
  ADD CONSTRAINT mix_mould FOREIGN KEY (mould_id) REFERENCES mould(id),
  ADD INDEX mix_of_recipe (recipe_slug, state),
  ADD CONSTRAINT mix_of FOREIGN KEY (parent_id) REFERENCES mix(id);

-- A line names its material; water from the tap has no lot.
ALTER TABLE mix_line MODIFY lot_id BIGINT UNSIGNED NULL, ADD COLUMN material_id BIGINT UNSIGNED NULL AFTER ingredient, ADD COLUMN why_lot VARCHAR(200) NOT NULL DEFAULT '',
  ADD COLUMN seen_at DATETIME(6) NULL;
UPDATE mix_line n JOIN lot l ON l.id = n.lot_id SET n.material_id = l.material_id;
ALTER TABLE mix_line MODIFY material_id BIGINT UNSIGNED NOT NULL, ADD CONSTRAINT mix_line_material FOREIGN KEY (material_id) REFERENCES material(id);

-- Steps that are no weighings; seq counts them and the lines together.
CREATE TABLE mix_step (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  mix_id BIGINT UNSIGNED NOT NULL,
  seq SMALLINT UNSIGNED NOT NULL,
  plan JSON NOT NULL,
  begun_at DATETIME(6) NULL,
  done_at DATETIME(6) NULL,
  done_by BIGINT UNSIGNED NULL,
  value DECIMAL(12,4) NULL,
  note VARCHAR(300) NOT NULL DEFAULT '',
  UNIQUE KEY mix_step_once (mix_id, seq),
  FOREIGN KEY (mix_id) REFERENCES mix(id),
  FOREIGN KEY (done_by) REFERENCES person(id)
);

-- What a recipe is like: runs that were watched.
CREATE TABLE recipe_trial (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  recipe_slug VARCHAR(80) NOT NULL,
  mix_id BIGINT UNSIGNED NULL,
  figures JSON NOT NULL,
  words VARCHAR(300) NOT NULL DEFAULT '',
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  INDEX recipe_trial_of (recipe_slug, at),
  FOREIGN KEY (mix_id) REFERENCES mix(id),
  FOREIGN KEY (person_id) REFERENCES person(id)
);

-- Minutes that people spent with fumes or dust.
CREATE TABLE exposure (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  person_id BIGINT UNSIGNED NOT NULL,
  mix_id BIGINT UNSIGNED NOT NULL,
  what VARCHAR(60) NOT NULL,
  began_at DATETIME(6) NOT NULL,
  ended_at DATETIME(6) NULL,
  UNIQUE KEY exposure_once (person_id, mix_id, what),
  FOREIGN KEY (person_id) REFERENCES person(id),
  FOREIGN KEY (mix_id) REFERENCES mix(id)
);

-- A delivery with its lines; one that nothing was used of is taken back.
CREATE TABLE receipt (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  code VARCHAR(16) NOT NULL UNIQUE,
  supplier VARCHAR(80) NOT NULL DEFAULT '',
  note VARCHAR(200) NOT NULL DEFAULT '',
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  undone_at DATETIME(6) NULL,
  undone_by BIGINT UNSIGNED NULL,
  idem_key CHAR(36) NULL UNIQUE,
  FOREIGN KEY (person_id) REFERENCES person(id),
  FOREIGN KEY (undone_by) REFERENCES person(id)
);

ALTER TABLE lot
  ADD COLUMN receipt_id BIGINT UNSIGNED NULL,
  ADD COLUMN mix_id BIGINT UNSIGNED NULL,
  ADD COLUMN from_lot_id BIGINT UNSIGNED NULL,
  ADD COLUMN use_by DATETIME(6) NULL,
  ADD COLUMN batch JSON NULL,
  ADD CONSTRAINT lot_receipt FOREIGN KEY (receipt_id) REFERENCES receipt(id),
  ADD CONSTRAINT lot_mix FOREIGN KEY (mix_id) REFERENCES mix(id),
  ADD CONSTRAINT lot_from FOREIGN KEY (from_lot_id) REFERENCES lot(id);

-- What it was worth, in hundredths of the shop's money; null of before.
ALTER TABLE movement
  MODIFY reason ENUM('received','weighed','counted','discarded','used','put_by','lost','sample','decanted','joined','taken_back') NOT NULL,
  ADD COLUMN value_minor BIGINT NULL,
  ADD COLUMN other_lot_id BIGINT UNSIGNED NULL,
  ADD COLUMN kit_id BIGINT UNSIGNED NULL,
  ADD CONSTRAINT movement_kit FOREIGN KEY (kit_id) REFERENCES kit(id),
  ADD CONSTRAINT movement_other FOREIGN KEY (other_lot_id) REFERENCES lot(id);

-- What a material's stock is worth: a moving average, carried with every movement.
CREATE TABLE stock_value (
  material_id BIGINT UNSIGNED PRIMARY KEY,
  grams DECIMAL(16,4) NOT NULL,
  minor BIGINT NOT NULL,
  FOREIGN KEY (material_id) REFERENCES material(id)
);
INSERT INTO stock_value (material_id, grams, minor)
  SELECT l.material_id, SUM(v.grams), ROUND(SUM(v.grams) / 1000 * COALESCE(MAX(JSON_VALUE(m.facts, '$.price_minor_kg')), 0))
  FROM movement v JOIN lot l ON l.id = v.lot_id JOIN material m ON m.id = l.material_id GROUP BY l.material_id;

-- A recall, and what each artist who has something of the lot was told.
CREATE TABLE recall (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  code VARCHAR(16) NOT NULL UNIQUE,
  lot_code VARCHAR(32) NOT NULL,
  reason VARCHAR(300) NOT NULL,
  at DATETIME(6) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  ended_at DATETIME(6) NULL,
  FOREIGN KEY (person_id) REFERENCES person(id)
);
CREATE TABLE recall_letter (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  recall_id BIGINT UNSIGNED NOT NULL,
  kit_id BIGINT UNSIGNED NOT NULL,
  told_at DATETIME(6) NULL,
  told_by BIGINT UNSIGNED NULL,
  answer VARCHAR(300) NOT NULL DEFAULT '',
  UNIQUE KEY recall_letter_once (recall_id, kit_id),
  FOREIGN KEY (recall_id) REFERENCES recall(id),
  FOREIGN KEY (kit_id) REFERENCES kit(id),
  FOREIGN KEY (told_by) REFERENCES person(id)
);

-- +goose Down
SELECT 1;

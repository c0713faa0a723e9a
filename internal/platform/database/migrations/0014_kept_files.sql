-- +goose Up

-- What is kept with a lot, a product or a recipe: the photograph of a label, data and
-- safety sheets, a swatch. One of the three is set.
CREATE TABLE kept_file (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  lot_id BIGINT UNSIGNED NULL,
  material_id BIGINT UNSIGNED NULL,
  recipe_slug VARCHAR(80) NULL,
  what ENUM('label','data sheet','safety sheet','swatch') NOT NULL,
  words VARCHAR(200) NOT NULL DEFAULT '',
  file_id BIGINT UNSIGNED NOT NULL,
  added_at DATETIME(6) NOT NULL,
  added_by BIGINT UNSIGNED NOT NULL,
  dropped_at DATETIME(6) NULL,
  INDEX kept_file_lot (lot_id, id),
  INDEX kept_file_material (material_id, id),
  INDEX kept_file_recipe (recipe_slug, id),
  FOREIGN KEY (lot_id) REFERENCES lot(id),
  FOREIGN KEY (material_id) REFERENCES material(id),
  FOREIGN KEY (file_id) REFERENCES file(id),
  FOREIGN KEY (added_by) REFERENCES person(id)
);

-- +goose Down
SELECT 1;

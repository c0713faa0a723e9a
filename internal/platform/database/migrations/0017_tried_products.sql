-- +goose Up

-- A trial of a product stands where that product is chosen again.
ALTER TABLE trial ADD COLUMN material_id BIGINT UNSIGNED NULL AFTER what, ADD INDEX trial_material (material_id, id), ADD FOREIGN KEY (material_id) REFERENCES material(id);

-- +goose Down
SELECT 1;

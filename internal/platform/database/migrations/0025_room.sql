-- +goose Up

-- How much a place takes at once: copies on a rack, moulds in an oven; nothing where nobody said.
ALTER TABLE place ADD COLUMN takes SMALLINT UNSIGNED NULL CHECK (takes > 0);

-- How much a bowl holds to the brim, ml; nothing where nobody said.
ALTER TABLE tool ADD COLUMN holds_ml INT UNSIGNED NULL CHECK (holds_ml > 0);

-- How sure it is to be that of what is begun enough is good; the newest counts, 0 takes each copy for good.
CREATE TABLE plan_sure (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  share DECIMAL(3,2) NOT NULL,
  by_id BIGINT UNSIGNED NOT NULL,
  at DATETIME(6) NOT NULL,
  FOREIGN KEY (by_id) REFERENCES person(id),
  CHECK (share < 1)
);

-- +goose Down
SELECT 1;

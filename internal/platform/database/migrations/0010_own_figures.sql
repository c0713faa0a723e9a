-- +goose Up

-- A shop without a sensor types what its thermometer shows.
ALTER TABLE room_reading ADD COLUMN source ENUM('sensor','typed') NOT NULL DEFAULT 'sensor', ADD COLUMN typed_by BIGINT UNSIGNED NULL,
  ADD FOREIGN KEY room_reading_typed_by (typed_by) REFERENCES person(id);

-- +goose Down
SELECT 1;

-- +goose Up

-- A shop without a sensor types what its thermometer shows.
ALTER TABLE room_reading ADD COLUMN source ENUM('sensor','typed') NOT NULL DEFAULT 'sensor', ADD COLUMN typed_by BIGINT UNSIGNED NULL,
  ADD FOREIGN KEY room_reading_typed_by (typed_by) REFERENCES person(id);

-- A step that needs an instrument which is not there is passed over with a word.
ALTER TABLE finish_tick ADD COLUMN skipped BOOLEAN NOT NULL DEFAULT FALSE;

-- How far a copy was cured or dry when it was taken out before its time; empty for
-- one that had its time, or of which nobody knows.
ALTER TABLE copy ADD COLUMN early_at DECIMAL(4,3) NULL;

-- +goose Down
SELECT 1;

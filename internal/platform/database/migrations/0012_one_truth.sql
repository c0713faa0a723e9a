-- +goose Up

-- Which voice is believed of a piece's area, beside its volume.
ALTER TABLE believed_amount ADD COLUMN what ENUM('volume','area') NOT NULL DEFAULT 'volume' AFTER piece_id;

-- +goose Down
SELECT 1;

-- +goose Up

-- Which voice is believed of a piece's area, beside its volume.
ALTER TABLE believed_amount ADD COLUMN what ENUM('volume','area') NOT NULL DEFAULT 'volume' AFTER piece_id;

-- The hour at which a patch test was put on or read is not made up where nobody
-- noted it: those that were set to noon, and a day after it, go back to their days.
ALTER TABLE patch_test ADD COLUMN read_on DATE NULL AFTER read_at;
UPDATE patch_test SET read_at = NULL, read_by = NULL WHERE TIME(put_on_at) = '12:00:00' AND read_at = ADDTIME(put_on_at, '24:00:00');
UPDATE patch_test SET put_on_at = NULL WHERE TIME(put_on_at) = '12:00:00';

-- +goose Down
SELECT 1;

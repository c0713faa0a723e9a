-- +goose Up
-- What is over is put away: it is found by search and stays whole, but no
-- screen that shows the work in hand reads it any more.
ALTER TABLE piece ADD COLUMN put_away_at DATETIME(6) NULL, ADD INDEX piece_put_away (put_away_at, code), ADD FULLTEXT INDEX piece_words (name);
ALTER TABLE lot ADD COLUMN used_up_at DATETIME(6) NULL, ADD INDEX lot_used_up (used_up_at);
ALTER TABLE performer ADD FULLTEXT INDEX performer_words (name);
ALTER TABLE `character` ADD FULLTEXT INDEX character_words (name);
ALTER TABLE kit ADD INDEX kit_open (received_at, handed_at);

-- The states that the screens ask for.
ALTER TABLE mix ADD INDEX mix_state (state, id);
ALTER TABLE copy ADD INDEX copy_state (state, made_at), ADD INDEX copy_made (made_at), ADD INDEX copy_piece_state (piece_id, state);
ALTER TABLE shooting_day ADD INDEX shooting_day_day (day, place);
-- What is on hand is a sum: the index alone answers it.
ALTER TABLE movement ADD INDEX movement_sum (lot_id, grams);
-- A trace from a lot to its kits reads indexes only, but for the codes.
ALTER TABLE mix_line ADD INDEX mix_line_trace (lot_id, mix_id), ADD INDEX mix_line_back (mix_id, lot_id);
ALTER TABLE copy ADD INDEX copy_run (run_id, code);
-- When the shelf of materials last changed: it is read anew only then.
ALTER TABLE material ADD COLUMN changed_at DATETIME(6) NOT NULL DEFAULT CURRENT_TIMESTAMP(6) ON UPDATE CURRENT_TIMESTAMP(6), ADD INDEX material_changed (changed_at);

-- +goose Down
SELECT 1;

-- +goose Up

-- What hastens or slows a cure says which it does, and no more of it is stirred in
-- than is known of it.
UPDATE material SET facts = JSON_SET(JSON_REMOVE(facts, '$.moves_cure'), '$.cure_shift', IF(slug = 'silicone-fast', 'accelerator', 'retarder'), '$.stir_most', 2), changed_at = UTC_TIMESTAMP(6)
  WHERE slug IN ('silicone-fast', 'silicone-slow');

-- +goose Down
SELECT 1;

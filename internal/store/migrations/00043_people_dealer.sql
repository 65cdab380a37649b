-- +goose Up
-- The dealer that somebody belongs to; 0 for none.
ALTER TABLE people ADD COLUMN IF NOT EXISTS dealer_id BIGINT UNSIGNED NOT NULL DEFAULT 0;

-- +goose Down
ALTER TABLE people DROP COLUMN dealer_id;

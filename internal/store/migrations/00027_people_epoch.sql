-- +goose Up
-- Sessions that began before the epoch of their account have ended.
ALTER TABLE people ADD COLUMN IF NOT EXISTS epoch BIGINT NOT NULL DEFAULT 0;

-- +goose Down
ALTER TABLE people DROP COLUMN epoch;

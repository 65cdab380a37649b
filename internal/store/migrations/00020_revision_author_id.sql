-- +goose Up
ALTER TABLE revisions ADD COLUMN IF NOT EXISTS author_id BIGINT UNSIGNED NOT NULL DEFAULT 0;

-- +goose Down
ALTER TABLE revisions DROP COLUMN author_id;

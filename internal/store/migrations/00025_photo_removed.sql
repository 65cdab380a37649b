-- +goose Up
ALTER TABLE photos ADD COLUMN IF NOT EXISTS removed_at DATETIME(6) NULL,
  ADD COLUMN IF NOT EXISTS removed_by VARCHAR(120) NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE photos DROP COLUMN removed_at, DROP COLUMN removed_by;

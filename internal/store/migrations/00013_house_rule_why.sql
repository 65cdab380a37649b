-- +goose Up
ALTER TABLE house_rules ADD COLUMN why VARCHAR(400) NOT NULL DEFAULT '', ADD COLUMN version INT NOT NULL DEFAULT 1;

-- +goose Down
ALTER TABLE house_rules DROP COLUMN why, DROP COLUMN version;

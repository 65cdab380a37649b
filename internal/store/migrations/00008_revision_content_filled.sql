-- +goose Up
UPDATE revisions SET content = number, parent = number - 1 WHERE content = 0;

-- +goose Down
UPDATE revisions SET content = 0, parent = 0;

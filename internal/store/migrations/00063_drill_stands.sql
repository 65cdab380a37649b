-- +goose Up
-- What questions stand on, and what that was: many stand on the same.
CREATE TABLE IF NOT EXISTS drill_stands (
  hash CHAR(24) CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  inputs MEDIUMTEXT NOT NULL
);

-- +goose Down
DROP TABLE drill_stands;

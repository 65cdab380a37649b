-- +goose Up
-- Files of published guides, once each, compressed; sum is that of the bytes before.
CREATE TABLE IF NOT EXISTS frozen (
  sum CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  body LONGBLOB NOT NULL
);

-- +goose Down
DROP TABLE frozen;

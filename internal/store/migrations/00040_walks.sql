-- +goose Up
-- Procedures that two phones go through together.
CREATE TABLE IF NOT EXISTS walks (
  code CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  published_id BIGINT UNSIGNED NOT NULL,
  build VARCHAR(200) NOT NULL,
  task VARCHAR(80) NOT NULL,
  created_at DATETIME(6) NOT NULL,
  KEY walks_created (created_at)
);

-- +goose Down
DROP TABLE walks;

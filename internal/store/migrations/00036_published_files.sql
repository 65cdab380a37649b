-- +goose Up
-- Which files a published guide has.
CREATE TABLE IF NOT EXISTS published_files (
  published_id BIGINT UNSIGNED NOT NULL,
  path VARCHAR(200) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  sum CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  PRIMARY KEY (published_id, path)
);

-- +goose Down
DROP TABLE published_files;

-- +goose Up
-- Photographs that were taken in trials; the entry with the same name says of what.
CREATE TABLE IF NOT EXISTS trial_photos (
  trial_id BIGINT UNSIGNED NOT NULL,
  mark VARCHAR(40) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  mime VARCHAR(40) NOT NULL,
  body MEDIUMBLOB NOT NULL,
  created_at DATETIME(6) NOT NULL,
  PRIMARY KEY (trial_id, mark)
);

-- +goose Down
DROP TABLE trial_photos;

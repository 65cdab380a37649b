-- +goose Up
-- What strangers sent lately, by the place that it came from.
CREATE TABLE IF NOT EXISTS reader_tries (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  place VARCHAR(64) NOT NULL,
  what VARCHAR(16) NOT NULL,
  created_at DATETIME(6) NOT NULL,
  KEY reader_tries_place (what, place, created_at)
);

-- +goose Down
DROP TABLE reader_tries;

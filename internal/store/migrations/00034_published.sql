-- +goose Up
-- Published guides, each with the envelope around what is frozen of it.
CREATE TABLE IF NOT EXISTS published (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  model_id BIGINT UNSIGNED NOT NULL,
  slug VARCHAR(80) NOT NULL,
  name VARCHAR(120) NOT NULL,
  year INT NOT NULL,
  letter VARCHAR(4) NOT NULL,
  number BIGINT UNSIGNED NOT NULL,
  state VARCHAR(16) NOT NULL,
  from_serial VARCHAR(60) NOT NULL,
  to_serial VARCHAR(60) NOT NULL,
  hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  about MEDIUMTEXT NOT NULL,
  published_by_id BIGINT UNSIGNED NOT NULL,
  published_by VARCHAR(120) NOT NULL,
  notice TEXT NOT NULL,
  tried TEXT NOT NULL,
  version BIGINT UNSIGNED NOT NULL DEFAULT 1,
  created_at DATETIME(6) NOT NULL,
  updated_at DATETIME(6) NOT NULL,
  UNIQUE KEY published_letter (model_id, letter)
);

-- +goose Down
DROP TABLE published;

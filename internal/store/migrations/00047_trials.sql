-- +goose Up
-- Procedures that were taken to units.
CREATE TABLE IF NOT EXISTS trials (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  code CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  model_id BIGINT UNSIGNED NOT NULL,
  slug VARCHAR(80) NOT NULL,
  number BIGINT UNSIGNED NOT NULL,
  unit_id BIGINT UNSIGNED NOT NULL,
  serial VARCHAR(60) NOT NULL,
  build VARCHAR(200) NOT NULL,
  task VARCHAR(80) NOT NULL,
  title VARCHAR(200) NOT NULL,
  dealer_id BIGINT UNSIGNED NOT NULL,
  state VARCHAR(16) NOT NULL,
  place VARCHAR(160) NOT NULL,
  weather VARCHAR(160) NOT NULL,
  by_id BIGINT UNSIGNED NOT NULL,
  by_name VARCHAR(120) NOT NULL,
  steps MEDIUMTEXT NOT NULL,
  page MEDIUMTEXT NOT NULL,
  verdict VARCHAR(16) NOT NULL DEFAULT '',
  finished_at DATETIME(6) NULL,
  created_at DATETIME(6) NOT NULL,
  updated_at DATETIME(6) NOT NULL,
  UNIQUE KEY trials_code (code),
  KEY trials_model (model_id, id),
  KEY trials_unit (unit_id, id)
);

-- +goose Down
DROP TABLE trials;

-- +goose Up
-- Dealers, whose technicians work on units.
CREATE TABLE IF NOT EXISTS dealers (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(120) NOT NULL,
  place VARCHAR(160) NOT NULL,
  created_at DATETIME(6) NOT NULL,
  UNIQUE KEY dealers_name (name)
);

-- +goose Down
DROP TABLE dealers;

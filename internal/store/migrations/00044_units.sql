-- +goose Up
-- Campers that were built, by their serial numbers.
CREATE TABLE IF NOT EXISTS units (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  serial VARCHAR(60) NOT NULL,
  serial_key VARCHAR(60) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  code CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  model_id BIGINT UNSIGNED NOT NULL,
  slug VARCHAR(80) NOT NULL,
  build VARCHAR(200) NOT NULL,
  dealer_id BIGINT UNSIGNED NOT NULL,
  used_for VARCHAR(16) NOT NULL,
  made_on DATETIME(6) NOT NULL,
  note VARCHAR(400) NOT NULL,
  basis CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  created_at DATETIME(6) NOT NULL,
  updated_at DATETIME(6) NOT NULL,
  UNIQUE KEY units_serial (serial_key),
  UNIQUE KEY units_code (code),
  KEY units_dealer (dealer_id, serial_key),
  KEY units_model (model_id, build, basis)
);

-- +goose Down
DROP TABLE units;

-- +goose Up
-- Certificates of courses that were passed.
CREATE TABLE IF NOT EXISTS drill_certificates (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  number CHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  course_id BIGINT UNSIGNED NOT NULL,
  sitting_id BIGINT UNSIGNED NOT NULL,
  title VARCHAR(160) NOT NULL,
  about VARCHAR(400) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  person_name VARCHAR(120) NOT NULL,
  dealer_id BIGINT UNSIGNED NOT NULL,
  dealer VARCHAR(120) NOT NULL,
  percent TINYINT UNSIGNED NOT NULL,
  expires_on DATETIME(6) NOT NULL,
  void_why VARCHAR(400) NOT NULL DEFAULT '',
  created_at DATETIME(6) NOT NULL,
  updated_at DATETIME(6) NOT NULL,
  UNIQUE KEY drill_certificates_number (number),
  UNIQUE KEY drill_certificates_sitting (sitting_id),
  KEY drill_certificates_person (person_id, id)
);

-- +goose Down
DROP TABLE drill_certificates;

-- +goose Up
-- A course on one screen, answered on phones.
CREATE TABLE IF NOT EXISTS drill_classes (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  code CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  course_id BIGINT UNSIGNED NOT NULL,
  title VARCHAR(160) NOT NULL,
  questions TEXT NOT NULL,
  place SMALLINT UNSIGNED NOT NULL,
  shown BOOLEAN NOT NULL,
  state VARCHAR(16) NOT NULL,
  by_id BIGINT UNSIGNED NOT NULL,
  by_name VARCHAR(120) NOT NULL,
  created_at DATETIME(6) NOT NULL,
  updated_at DATETIME(6) NOT NULL,
  UNIQUE KEY drill_classes_code (code),
  KEY drill_classes_course (course_id, id)
);

-- +goose Down
DROP TABLE drill_classes;

-- +goose Up
-- Courses: models and kinds together.
CREATE TABLE IF NOT EXISTS drill_courses (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  code CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  name VARCHAR(120) NOT NULL,
  note VARCHAR(400) NOT NULL,
  models TEXT NOT NULL,
  kinds VARCHAR(200) NOT NULL,
  count SMALLINT UNSIGNED NOT NULL,
  pass_mark TINYINT UNSIGNED NOT NULL,
  months SMALLINT UNSIGNED NOT NULL,
  practical VARCHAR(400) NOT NULL,
  state VARCHAR(16) NOT NULL,
  by_id BIGINT UNSIGNED NOT NULL,
  by_name VARCHAR(120) NOT NULL,
  created_at DATETIME(6) NOT NULL,
  updated_at DATETIME(6) NOT NULL,
  UNIQUE KEY drill_courses_code (code)
);

-- +goose Down
DROP TABLE drill_courses;

-- +goose Up
-- Somebody sits a course, or practises.
CREATE TABLE IF NOT EXISTS drill_sittings (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  code CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  course_id BIGINT UNSIGNED NOT NULL,
  class_id BIGINT UNSIGNED NOT NULL,
  title VARCHAR(160) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  person_name VARCHAR(120) NOT NULL,
  dealer_id BIGINT UNSIGNED NOT NULL,
  questions TEXT NOT NULL,
  asked SMALLINT UNSIGNED NOT NULL,
  answered SMALLINT UNSIGNED NOT NULL DEFAULT 0,
  rights SMALLINT UNSIGNED NOT NULL DEFAULT 0,
  points INT UNSIGNED NOT NULL DEFAULT 0,
  missed_trap BOOLEAN NOT NULL DEFAULT FALSE,
  state VARCHAR(16) NOT NULL,
  ended_at DATETIME(6) NULL,
  created_at DATETIME(6) NOT NULL,
  updated_at DATETIME(6) NOT NULL,
  UNIQUE KEY drill_sittings_code (code),
  KEY drill_sittings_person (person_id, id),
  KEY drill_sittings_course (course_id, id),
  KEY drill_sittings_class (class_id, id)
);

-- +goose Down
DROP TABLE drill_sittings;

-- +goose Up
-- Questions in words, with what is right; the same question is kept once.
CREATE TABLE IF NOT EXISTS drill_questions (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  slug VARCHAR(80) NOT NULL,
  build VARCHAR(200) NOT NULL,
  mark CHAR(24) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  hash CHAR(24) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  kind VARCHAR(16) NOT NULL,
  hard TINYINT UNSIGNED NOT NULL,
  trap BOOLEAN NOT NULL,
  task VARCHAR(80) NOT NULL,
  ask VARCHAR(600) NOT NULL,
  paper MEDIUMTEXT NOT NULL,
  stands CHAR(24) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  created_at DATETIME(6) NOT NULL,
  UNIQUE KEY drill_questions_hash (slug, build, mark, hash)
);

-- +goose Down
DROP TABLE drill_questions;

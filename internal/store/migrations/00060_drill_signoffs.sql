-- +goose Up
-- Somebody was seen to do a procedure on a unit as it is written.
CREATE TABLE IF NOT EXISTS drill_signoffs (
  trial_id BIGINT UNSIGNED NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  person_name VARCHAR(120) NOT NULL,
  slug VARCHAR(80) NOT NULL,
  task VARCHAR(80) NOT NULL,
  title VARCHAR(200) NOT NULL,
  serial VARCHAR(60) NOT NULL,
  by_id BIGINT UNSIGNED NOT NULL,
  by_name VARCHAR(120) NOT NULL,
  note VARCHAR(400) NOT NULL,
  created_at DATETIME(6) NOT NULL,
  PRIMARY KEY (trial_id, person_id),
  KEY drill_signoffs_person (person_id, created_at)
);

-- +goose Down
DROP TABLE drill_signoffs;

-- +goose Up
-- What was answered, as it was marked then.
CREATE TABLE IF NOT EXISTS drill_answers (
  sitting_id BIGINT UNSIGNED NOT NULL,
  place SMALLINT UNSIGNED NOT NULL,
  question_id BIGINT UNSIGNED NOT NULL,
  slug VARCHAR(80) NOT NULL,
  build VARCHAR(200) NOT NULL,
  mark CHAR(24) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  kind VARCHAR(16) NOT NULL,
  task VARCHAR(80) NOT NULL,
  trap BOOLEAN NOT NULL,
  ask VARCHAR(600) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  person_name VARCHAR(120) NOT NULL,
  dealer_id BIGINT UNSIGNED NOT NULL,
  answer TEXT NOT NULL,
  rightly BOOLEAN NOT NULL,
  danger BOOLEAN NOT NULL,
  points TINYINT UNSIGNED NOT NULL,
  hints TINYINT UNSIGNED NOT NULL,
  looks SMALLINT UNSIGNED NOT NULL,
  fewest SMALLINT UNSIGNED NOT NULL,
  said TEXT NOT NULL,
  void_why VARCHAR(400) NOT NULL DEFAULT '',
  created_at DATETIME(6) NOT NULL,
  PRIMARY KEY (sitting_id, place),
  KEY drill_answers_person (person_id, created_at),
  KEY drill_answers_question (slug, mark),
  KEY drill_answers_dealer (dealer_id, created_at)
);

-- +goose Down
DROP TABLE drill_answers;

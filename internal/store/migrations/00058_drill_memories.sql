-- +goose Up
-- When somebody is asked again: by model and kind of question.
CREATE TABLE IF NOT EXISTS drill_memories (
  person_id BIGINT UNSIGNED NOT NULL,
  slug VARCHAR(80) NOT NULL,
  kind VARCHAR(16) NOT NULL,
  box TINYINT UNSIGNED NOT NULL,
  due_on DATETIME(6) NOT NULL,
  rights INT UNSIGNED NOT NULL,
  wrongs INT UNSIGNED NOT NULL,
  updated_at DATETIME(6) NOT NULL,
  PRIMARY KEY (person_id, slug, kind),
  KEY drill_memories_due (person_id, due_on)
);

-- +goose Down
DROP TABLE drill_memories;

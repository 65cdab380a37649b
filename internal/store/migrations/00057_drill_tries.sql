-- +goose Up
-- How far somebody is with a question that is not answered yet: looks made, hints taken.
CREATE TABLE IF NOT EXISTS drill_tries (
  sitting_id BIGINT UNSIGNED NOT NULL,
  place SMALLINT UNSIGNED NOT NULL,
  hints TINYINT UNSIGNED NOT NULL,
  looks TEXT NOT NULL,
  updated_at DATETIME(6) NOT NULL,
  PRIMARY KEY (sitting_id, place)
);

-- +goose Down
DROP TABLE drill_tries;

-- +goose Up
-- What most get wrong, put to whoever writes the guide, and what became of it.
CREATE TABLE IF NOT EXISTS drill_proposals (
  slug VARCHAR(80) NOT NULL,
  mark CHAR(24) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  asked INT UNSIGNED NOT NULL,
  wrongs INT UNSIGNED NOT NULL,
  state VARCHAR(16) NOT NULL,
  words VARCHAR(400) NOT NULL,
  by_id BIGINT UNSIGNED NOT NULL,
  by_name VARCHAR(120) NOT NULL,
  created_at DATETIME(6) NOT NULL,
  updated_at DATETIME(6) NOT NULL,
  PRIMARY KEY (slug, mark)
);

-- +goose Down
DROP TABLE drill_proposals;

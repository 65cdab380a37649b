-- +goose Up
-- What was written down in trials, each entry by a name that the phone made up.
CREATE TABLE IF NOT EXISTS trial_entries (
  trial_id BIGINT UNSIGNED NOT NULL,
  mark VARCHAR(40) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  at BIGINT NOT NULL,
  step VARCHAR(120) NOT NULL,
  kind VARCHAR(16) NOT NULL,
  what VARCHAR(120) NOT NULL,
  value DOUBLE NOT NULL,
  words TEXT NOT NULL,
  by_id BIGINT UNSIGNED NOT NULL,
  by_name VARCHAR(120) NOT NULL,
  created_at DATETIME(6) NOT NULL,
  PRIMARY KEY (trial_id, mark)
);

-- +goose Down
DROP TABLE trial_entries;

-- +goose Up
-- What was done on units, each entry by a name that it was given where it was written.
CREATE TABLE IF NOT EXISTS unit_entries (
  unit_id BIGINT UNSIGNED NOT NULL,
  mark VARCHAR(40) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  on_day DATETIME(6) NOT NULL,
  kind VARCHAR(24) NOT NULL,
  what VARCHAR(120) NOT NULL,
  value DOUBLE NOT NULL,
  words VARCHAR(1200) NOT NULL,
  by_id BIGINT UNSIGNED NOT NULL,
  by_name VARCHAR(120) NOT NULL,
  trial_id BIGINT UNSIGNED NOT NULL DEFAULT 0,
  gone_by VARCHAR(120) NOT NULL DEFAULT '',
  created_at DATETIME(6) NOT NULL,
  PRIMARY KEY (unit_id, mark),
  KEY unit_entries_day (unit_id, on_day)
);

-- +goose Down
DROP TABLE unit_entries;

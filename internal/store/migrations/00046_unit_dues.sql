-- +goose Up
-- What is due on units, as it follows from their logs.
CREATE TABLE IF NOT EXISTS unit_dues (
  unit_id BIGINT UNSIGNED NOT NULL,
  kind VARCHAR(24) NOT NULL,
  what VARCHAR(120) NOT NULL,
  on_day DATETIME(6) NOT NULL,
  why VARCHAR(16) NOT NULL,
  last_day DATETIME(6) NULL,
  dealer_id BIGINT UNSIGNED NOT NULL,
  PRIMARY KEY (unit_id, kind, what),
  KEY unit_dues_day (on_day, unit_id),
  KEY unit_dues_dealer (dealer_id, on_day, unit_id)
);

-- +goose Down
DROP TABLE unit_dues;

-- +goose Up
-- Browsers from which somebody has signed in: strangers' tries don't count against them.
CREATE TABLE IF NOT EXISTS known_browsers (
  token CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  seen_at DATETIME(6) NOT NULL,
  PRIMARY KEY (token, person_id),
  KEY known_seen (seen_at)
);

-- +goose Down
DROP TABLE known_browsers;

-- +goose Up
-- What of a published guide no longer holds, for a state of model, rules, photographs and program.
CREATE TABLE IF NOT EXISTS standings (
  published_id BIGINT UNSIGNED NOT NULL PRIMARY KEY,
  of_state CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  body MEDIUMTEXT NOT NULL,
  broken INT NOT NULL,
  dangers INT NOT NULL,
  taken MEDIUMTEXT NOT NULL,
  checked_at DATETIME(6) NOT NULL
);

-- +goose Down
DROP TABLE standings;

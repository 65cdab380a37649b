-- +goose Up
-- Arrangements of drawings that took long, each for a state with its options and a program.
CREATE TABLE IF NOT EXISTS drawings (
  of CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  body MEDIUMBLOB NOT NULL,
  created_at DATETIME(6) NOT NULL,
  KEY drawings_created (created_at)
);

-- +goose Down
DROP TABLE drawings;

-- +goose Up
-- What the phones of a walk ticked, each mark by a name of its own.
CREATE TABLE IF NOT EXISTS walk_marks (
  code CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  mark VARCHAR(40) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  step INT NOT NULL,
  what VARCHAR(12) NOT NULL,
  at BIGINT NOT NULL,
  side VARCHAR(12) NOT NULL,
  created_at DATETIME(6) NOT NULL,
  PRIMARY KEY (code, mark)
);

-- +goose Down
DROP TABLE walk_marks;

-- +goose Up
-- What came of a request that its page may send again, having heard nothing.
CREATE TABLE IF NOT EXISTS answers (
  request VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  slug VARCHAR(80) NOT NULL,
  number BIGINT UNSIGNED NOT NULL,
  held BIGINT UNSIGNED NOT NULL DEFAULT 0,
  created_at DATETIME(6) NOT NULL,
  PRIMARY KEY (request, person_id),
  KEY answers_created (created_at)
);

-- +goose Down
DROP TABLE answers;

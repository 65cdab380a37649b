-- +goose Up
-- What somebody has seen of a guide: the sum of each of its blocks.
CREATE TABLE IF NOT EXISTS looks (
  model_id BIGINT UNSIGNED NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  edition VARCHAR(20) NOT NULL,
  body MEDIUMTEXT NOT NULL,
  created_at DATETIME(6) NOT NULL,
  PRIMARY KEY (model_id, person_id, edition)
);

-- +goose Down
DROP TABLE looks;

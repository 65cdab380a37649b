-- +goose Up
CREATE TABLE IF NOT EXISTS revisions (
  id          BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  model_id    BIGINT UNSIGNED NOT NULL,
  number      BIGINT UNSIGNED NOT NULL,
  author      VARCHAR(120) NOT NULL,
  reason      VARCHAR(400) NOT NULL,
  document    LONGTEXT     NOT NULL,
  hash        CHAR(64)     NOT NULL,
  created_at  DATETIME(6)  NOT NULL,
  UNIQUE KEY model_number (model_id, number),
  CONSTRAINT revision_of FOREIGN KEY (model_id) REFERENCES models (id)
);

-- +goose Down
DROP TABLE revisions;

-- +goose Up
CREATE TABLE IF NOT EXISTS imports (
  id          BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  model_id    BIGINT UNSIGNED NOT NULL,
  person      VARCHAR(120) NOT NULL,
  file_name   VARCHAR(200) NOT NULL,
  file        MEDIUMBLOB   NOT NULL,
  state       LONGTEXT     NOT NULL,
  created_at  DATETIME(6)  NOT NULL,
  updated_at  DATETIME(6)  NOT NULL,
  CONSTRAINT import_of FOREIGN KEY (model_id) REFERENCES models (id)
);

-- +goose Down
DROP TABLE imports;

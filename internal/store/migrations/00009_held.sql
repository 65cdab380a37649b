-- +goose Up
CREATE TABLE IF NOT EXISTS held (
  id          BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  model_id    BIGINT UNSIGNED NOT NULL,
  base        BIGINT UNSIGNED NOT NULL,
  person      VARCHAR(120) NOT NULL,
  reason      VARCHAR(400) NOT NULL,
  document    LONGTEXT     NOT NULL,
  created_at  DATETIME(6)  NOT NULL,
  CONSTRAINT held_of FOREIGN KEY (model_id) REFERENCES models (id)
);

-- +goose Down
DROP TABLE held;

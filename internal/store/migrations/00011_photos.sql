-- +goose Up
CREATE TABLE IF NOT EXISTS photos (
  id          BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  model_id    BIGINT UNSIGNED NOT NULL,
  part        VARCHAR(80)  NOT NULL,
  person      VARCHAR(120) NOT NULL,
  image       MEDIUMBLOB   NOT NULL,
  mark_x      DOUBLE       NOT NULL,
  mark_y      DOUBLE       NOT NULL,
  created_at  DATETIME(6)  NOT NULL,
  updated_at  DATETIME(6)  NOT NULL,
  KEY photo_of (model_id, part),
  CONSTRAINT photo_model FOREIGN KEY (model_id) REFERENCES models (id)
);

-- +goose Down
DROP TABLE photos;

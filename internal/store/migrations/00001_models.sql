-- +goose Up
CREATE TABLE IF NOT EXISTS models (
  id          BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  slug        VARCHAR(80)  NOT NULL UNIQUE,
  name        VARCHAR(120) NOT NULL,
  year        SMALLINT     NOT NULL,
  kind        VARCHAR(60)  NOT NULL,
  revision    BIGINT UNSIGNED NOT NULL DEFAULT 0,
  created_at  DATETIME(6)  NOT NULL,
  updated_at  DATETIME(6)  NOT NULL
);

-- +goose Down
DROP TABLE models;

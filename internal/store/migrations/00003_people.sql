-- +goose Up
CREATE TABLE IF NOT EXISTS people (
  id          BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  login       VARCHAR(60)  NOT NULL UNIQUE,
  name        VARCHAR(120) NOT NULL,
  role        VARCHAR(20)  NOT NULL,
  password    VARCHAR(100) NOT NULL,
  active      BOOLEAN      NOT NULL,
  created_at  DATETIME(6)  NOT NULL,
  updated_at  DATETIME(6)  NOT NULL
);

-- +goose Down
DROP TABLE people;

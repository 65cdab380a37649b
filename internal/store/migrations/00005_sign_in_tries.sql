-- +goose Up
CREATE TABLE IF NOT EXISTS sign_in_tries (
  id          BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  login       VARCHAR(60)  NOT NULL,
  address     VARCHAR(60)  NOT NULL,
  created_at  DATETIME(6)  NOT NULL,
  KEY try_of (login, created_at),
  KEY try_from (address, created_at)
);

-- +goose Down
DROP TABLE sign_in_tries;

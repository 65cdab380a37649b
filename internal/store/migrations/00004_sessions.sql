-- +goose Up
CREATE TABLE IF NOT EXISTS sessions (
  token   CHAR(43)     NOT NULL PRIMARY KEY,
  data    BLOB         NOT NULL,
  expiry  TIMESTAMP(6) NOT NULL,
  KEY session_expiry (expiry)
);

-- +goose Down
DROP TABLE sessions;

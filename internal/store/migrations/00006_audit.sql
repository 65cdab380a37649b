-- +goose Up
CREATE TABLE IF NOT EXISTS audit (
  id          BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  person      VARCHAR(120) NOT NULL,
  action      VARCHAR(60)  NOT NULL,
  subject     VARCHAR(120) NOT NULL,
  detail      VARCHAR(400) NOT NULL,
  created_at  DATETIME(6)  NOT NULL,
  KEY audit_subject (subject, id)
);

-- +goose Down
DROP TABLE audit;

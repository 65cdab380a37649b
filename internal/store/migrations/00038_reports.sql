-- +goose Up
-- What readers say did not work on theirs.
CREATE TABLE IF NOT EXISTS reports (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  code CHAR(26) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  published_id BIGINT UNSIGNED NOT NULL,
  model_id BIGINT UNSIGNED NOT NULL,
  letter VARCHAR(4) NOT NULL,
  build VARCHAR(200) NOT NULL,
  task VARCHAR(80) NOT NULL,
  step INT NOT NULL,
  said TEXT NOT NULL,
  words TEXT NOT NULL,
  state VARCHAR(16) NOT NULL,
  answer TEXT NOT NULL,
  became VARCHAR(200) NOT NULL,
  answered_by_id BIGINT UNSIGNED NOT NULL DEFAULT 0,
  answered_by VARCHAR(120) NOT NULL DEFAULT '',
  created_at DATETIME(6) NOT NULL,
  updated_at DATETIME(6) NOT NULL,
  UNIQUE KEY reports_code (code),
  KEY reports_model (model_id, id)
);

-- +goose Down
DROP TABLE reports;

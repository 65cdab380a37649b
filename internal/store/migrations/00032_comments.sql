-- +goose Up
-- Comments on blocks and lines of guides, and the answers to them (on_id).
CREATE TABLE IF NOT EXISTS comments (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  model_id BIGINT UNSIGNED NOT NULL,
  on_id BIGINT UNSIGNED NOT NULL DEFAULT 0,
  block VARCHAR(120) NOT NULL,
  line VARCHAR(200) NOT NULL,
  quote TEXT NOT NULL,
  text TEXT NOT NULL,
  state VARCHAR(12) NOT NULL,
  person_id BIGINT UNSIGNED NOT NULL,
  person VARCHAR(120) NOT NULL,
  role VARCHAR(20) NOT NULL,
  settled_by VARCHAR(120) NOT NULL DEFAULT '',
  created_at DATETIME(6) NOT NULL,
  updated_at DATETIME(6) NOT NULL,
  KEY comments_model (model_id, id)
);

-- +goose Down
DROP TABLE comments;

-- +goose Up
-- Rounds of review: what was sent, by whom, and what became of it.
CREATE TABLE IF NOT EXISTS reviews (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  model_id BIGINT UNSIGNED NOT NULL,
  state VARCHAR(16) NOT NULL,
  basis CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  number BIGINT UNSIGNED NOT NULL,
  sent_by_id BIGINT UNSIGNED NOT NULL,
  sent_by VARCHAR(120) NOT NULL,
  note TEXT NOT NULL,
  decided_by_id BIGINT UNSIGNED NOT NULL DEFAULT 0,
  decided_by VARCHAR(120) NOT NULL DEFAULT '',
  words TEXT NOT NULL,
  created_at DATETIME(6) NOT NULL,
  updated_at DATETIME(6) NOT NULL,
  KEY reviews_model (model_id, id)
);

-- +goose Down
DROP TABLE reviews;

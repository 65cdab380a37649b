-- +goose Up
-- What trials asked to be corrected in models and rules, and what became of it.
CREATE TABLE IF NOT EXISTS corrections (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  trial_id BIGINT UNSIGNED NOT NULL,
  model_id BIGINT UNSIGNED NOT NULL,
  slug VARCHAR(80) NOT NULL,
  cause VARCHAR(16) NOT NULL,
  place VARCHAR(8) NOT NULL,
  what VARCHAR(120) NOT NULL,
  path VARCHAR(60) NOT NULL,
  before_text VARCHAR(120) NOT NULL,
  after_text VARCHAR(120) NOT NULL,
  lowers VARCHAR(400) NOT NULL,
  state VARCHAR(16) NOT NULL,
  by_id BIGINT UNSIGNED NOT NULL,
  by_name VARCHAR(120) NOT NULL,
  decided_by_id BIGINT UNSIGNED NOT NULL DEFAULT 0,
  decided_by VARCHAR(120) NOT NULL DEFAULT '',
  number BIGINT UNSIGNED NOT NULL DEFAULT 0,
  version INT NOT NULL DEFAULT 0,
  created_at DATETIME(6) NOT NULL,
  updated_at DATETIME(6) NOT NULL,
  KEY corrections_trial (trial_id, id),
  KEY corrections_model (model_id, id)
);

-- +goose Down
DROP TABLE corrections;

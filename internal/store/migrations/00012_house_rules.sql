-- +goose Up
CREATE TABLE IF NOT EXISTS house_rules (
  scope       VARCHAR(80)  NOT NULL,
  rule        VARCHAR(40)  NOT NULL,
  value       VARCHAR(80)  NOT NULL,
  person      VARCHAR(120) NOT NULL,
  updated_at  DATETIME(6)  NOT NULL,
  PRIMARY KEY (scope, rule)
);

-- +goose Down
DROP TABLE house_rules;

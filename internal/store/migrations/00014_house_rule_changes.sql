-- +goose Up
CREATE TABLE IF NOT EXISTS house_rule_changes (
  scope       VARCHAR(80)  NOT NULL,
  rule        VARCHAR(40)  NOT NULL,
  version     INT          NOT NULL,
  value       VARCHAR(80)  NOT NULL,
  person      VARCHAR(120) NOT NULL,
  why         VARCHAR(400) NOT NULL,
  updated_at  DATETIME(6)  NOT NULL,
  PRIMARY KEY (scope, rule, version)
);

-- +goose Down
DROP TABLE house_rule_changes;

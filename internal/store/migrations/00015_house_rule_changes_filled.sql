-- +goose Up
INSERT IGNORE INTO house_rule_changes (scope, rule, version, value, person, why, updated_at)
SELECT scope, rule, version, value, person, why, updated_at FROM house_rules;

-- +goose Down
DELETE FROM house_rule_changes;

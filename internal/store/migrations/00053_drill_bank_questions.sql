-- +goose Up
-- Which questions a bank has.
CREATE TABLE IF NOT EXISTS drill_bank_questions (
  bank_id BIGINT UNSIGNED NOT NULL,
  question_id BIGINT UNSIGNED NOT NULL,
  PRIMARY KEY (bank_id, question_id)
);

-- +goose Down
DROP TABLE drill_bank_questions;

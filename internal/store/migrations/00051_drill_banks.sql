-- +goose Up
-- What can be asked of a model as it is: a bank of questions by what they follow from.
CREATE TABLE IF NOT EXISTS drill_banks (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  model_id BIGINT UNSIGNED NOT NULL,
  slug VARCHAR(80) NOT NULL,
  build VARCHAR(200) NOT NULL,
  number BIGINT UNSIGNED NOT NULL,
  basis CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  counts TEXT NOT NULL,
  created_at DATETIME(6) NOT NULL,
  UNIQUE KEY drill_banks_basis (slug, build, basis)
);

-- +goose Down
DROP TABLE drill_banks;

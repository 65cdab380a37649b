-- +goose Up
CREATE TABLE IF NOT EXISTS model_columns (
  revision_id BIGINT UNSIGNED NOT NULL PRIMARY KEY,
  for_house   CHAR(24)     NOT NULL,
  for_core    CHAR(24)     NOT NULL,
  shown       TEXT         NOT NULL,
  things      MEDIUMTEXT   NOT NULL,
  updated_at  DATETIME(6)  NOT NULL,
  CONSTRAINT columns_of FOREIGN KEY (revision_id) REFERENCES revisions (id) ON DELETE CASCADE
);

-- +goose Down
DROP TABLE model_columns;

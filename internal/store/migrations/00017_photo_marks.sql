-- +goose Up
CREATE TABLE IF NOT EXISTS photo_marks (
  photo_id    BIGINT UNSIGNED NOT NULL,
  part        VARCHAR(80)  NOT NULL,
  x           DOUBLE       NOT NULL,
  y           DOUBLE       NOT NULL,
  PRIMARY KEY (photo_id, part),
  CONSTRAINT mark_of FOREIGN KEY (photo_id) REFERENCES photos (id) ON DELETE CASCADE
);

-- +goose Down
DROP TABLE photo_marks;

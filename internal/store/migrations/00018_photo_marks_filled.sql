-- +goose Up
INSERT IGNORE INTO photo_marks (photo_id, part, x, y) SELECT id, part, mark_x, mark_y FROM photos;

-- +goose Down
DELETE FROM photo_marks;

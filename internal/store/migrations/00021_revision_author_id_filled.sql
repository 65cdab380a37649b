-- +goose Up
UPDATE revisions r JOIN (SELECT name, MIN(id) AS id FROM people GROUP BY name HAVING COUNT(*) = 1) p
  ON BINARY p.name = BINARY r.author SET r.author_id = p.id WHERE r.author_id = 0;

-- +goose Down
UPDATE revisions SET author_id = 0;

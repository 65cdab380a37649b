-- +goose Up
UPDATE held h JOIN (SELECT name, MIN(id) AS id FROM people GROUP BY name HAVING COUNT(*) = 1) p
  ON BINARY p.name = BINARY h.person SET h.person_id = p.id WHERE h.person_id = 0;

-- +goose Down
UPDATE held SET person_id = 0;

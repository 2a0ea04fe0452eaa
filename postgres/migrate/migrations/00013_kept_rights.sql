-- +goose Up
-- What roles could do with an object that was taken away, so that it comes back with it.
ALTER TABLE plainpath.document ADD COLUMN rights jsonb;

-- +goose Down
ALTER TABLE plainpath.document DROP COLUMN rights;

-- +goose Up
-- The objects and fields that an import has made for its rows, which go again when the rows do not come.
ALTER TABLE plainpath.intake ADD COLUMN made jsonb;

-- +goose Down
ALTER TABLE plainpath.intake DROP COLUMN made;

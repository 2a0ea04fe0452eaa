-- +goose Up
-- The time zone in which somebody enters and sees times, that of the app when empty.
ALTER TABLE plainpath.person ADD COLUMN zone text NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE plainpath.person DROP COLUMN zone;

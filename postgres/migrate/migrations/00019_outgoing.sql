-- +goose Up
-- How many rows a file will have is not counted before it is written.
ALTER TABLE plainpath.outgoing DROP COLUMN total;

-- +goose Down
ALTER TABLE plainpath.outgoing ADD COLUMN total bigint NOT NULL DEFAULT 0;

-- +goose Up
-- Files that were asked for are removed by age.
CREATE INDEX outgoing_at ON plainpath.outgoing (created_at);

-- +goose Down
DROP INDEX plainpath.outgoing_at;

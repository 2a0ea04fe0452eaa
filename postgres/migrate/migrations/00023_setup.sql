-- +goose Up
-- Links with which the first administrator and the first app are made, as long as there is none.
CREATE TABLE plainpath.setup (
    token_hash bytea PRIMARY KEY,
    expires_at timestamptz NOT NULL
);

-- +goose Down
DROP TABLE plainpath.setup;

-- +goose Up
-- What was answered to requests that count once, until nobody asks again.
CREATE TABLE plainpath.request (
    person bigint NOT NULL REFERENCES plainpath.person (id) ON DELETE CASCADE,
    key    text NOT NULL CHECK (length(key) <= 200),
    at     timestamptz NOT NULL DEFAULT now(),
    answer jsonb,
    PRIMARY KEY (person, key)
);
CREATE INDEX request_at ON plainpath.request (at);

-- +goose Down
DROP TABLE plainpath.request;

-- +goose Up
-- Tables that people asked for as files, each fetched once. What is written so far is
-- told while it goes on.
CREATE TABLE plainpath.outgoing (
    id         uuid PRIMARY KEY DEFAULT gen_random_uuid(),
    app        text NOT NULL,
    space      text NOT NULL,
    person     bigint NOT NULL REFERENCES plainpath.person (id) ON DELETE CASCADE,
    ask        jsonb NOT NULL,
    total      bigint NOT NULL,
    done       bigint NOT NULL DEFAULT 0,
    state      text NOT NULL DEFAULT 'asked',
    created_at timestamptz NOT NULL DEFAULT now()
);

-- +goose Down
DROP TABLE plainpath.outgoing;

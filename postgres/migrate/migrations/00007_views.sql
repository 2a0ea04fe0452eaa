-- +goose Up
-- How people arranged tables. The one without a name is how they left the table last.
CREATE TABLE plainpath.view (
    id      bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    app     text NOT NULL,
    person  bigint NOT NULL REFERENCES plainpath.person (id) ON DELETE CASCADE,
    "table" text NOT NULL,
    name    text NOT NULL,
    body    jsonb NOT NULL,
    used_at timestamptz NOT NULL DEFAULT now(),
    UNIQUE (app, person, "table", name)
);

-- +goose Down
DROP TABLE plainpath.view;

-- +goose Up
-- What is stored in an object, as somebody sees it, for objects too large to be looked
-- at each time.
CREATE TABLE plainpath.profile (
    app        text NOT NULL,
    space      text NOT NULL,
    object     text NOT NULL,
    person     bigint NOT NULL REFERENCES plainpath.person (id) ON DELETE CASCADE,
    at         timestamptz,
    records    bigint NOT NULL DEFAULT 0,
    fields     jsonb NOT NULL DEFAULT '[]',
    done       integer NOT NULL DEFAULT 0,
    working    boolean NOT NULL DEFAULT false,
    changed_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (app, space, object, person)
);

-- +goose Down
DROP TABLE plainpath.profile;

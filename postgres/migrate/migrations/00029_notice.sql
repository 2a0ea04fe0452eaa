-- +goose Up
-- What people are told in the program.
CREATE TABLE plainpath.notice (
    id      bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    app     text NOT NULL,
    space   text NOT NULL,
    person  bigint NOT NULL REFERENCES plainpath.person (id) ON DELETE CASCADE,
    text    jsonb NOT NULL,
    object  text NOT NULL DEFAULT '',
    record  bigint NOT NULL DEFAULT 0,
    at      timestamptz NOT NULL,
    read_at timestamptz,
    FOREIGN KEY (app, space) REFERENCES plainpath.space (app, key) ON DELETE CASCADE
);
CREATE INDEX notice_of ON plainpath.notice (person, app, space, id);
CREATE INDEX notice_unread ON plainpath.notice (person, app, space) WHERE read_at IS NULL;
CREATE INDEX notice_at ON plainpath.notice (at);

-- +goose Down
DROP TABLE plainpath.notice;

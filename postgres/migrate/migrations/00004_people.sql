-- +goose Up
-- Links with which somebody chooses a password: after an invitation, or when theirs was
-- reset. Only a hash of the token is kept.
CREATE TABLE plainpath.password_link (
    token_hash bytea PRIMARY KEY,
    person     bigint NOT NULL REFERENCES plainpath.person (id) ON DELETE CASCADE,
    expires_at timestamptz NOT NULL
);

-- What was written to people. Until there is a way to send mail it is read here.
CREATE TABLE plainpath.mail (
    id      bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    at      timestamptz NOT NULL DEFAULT now(),
    person  bigint NOT NULL REFERENCES plainpath.person (id) ON DELETE CASCADE,
    address text NOT NULL,
    subject text NOT NULL,
    body    text NOT NULL
);

-- +goose Down
DROP TABLE plainpath.mail, plainpath.password_link;

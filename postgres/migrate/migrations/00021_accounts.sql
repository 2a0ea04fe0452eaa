-- +goose Up
-- Who looks after the accounts, which was every builder's.
ALTER TABLE plainpath.person ADD COLUMN administrator boolean NOT NULL DEFAULT false;
UPDATE plainpath.person SET administrator = builder;

-- Where tries to sign in came from: an address, and a browser in which the person signed in before.
-- Those that were refused untried count for nothing.
ALTER TABLE plainpath.sign_in ADD COLUMN address text NOT NULL DEFAULT '', ADD COLUMN device bytea, ADD COLUMN refused boolean NOT NULL DEFAULT false;
CREATE INDEX sign_in_address ON plainpath.sign_in (address, at DESC);

-- Browsers in which somebody has signed in: strangers' failures do not shut them out.
CREATE TABLE plainpath.device (
    token_hash bytea PRIMARY KEY,
    person     bigint NOT NULL REFERENCES plainpath.person (id) ON DELETE CASCADE,
    expires_at timestamptz NOT NULL
);

ALTER TABLE plainpath.session ADD COLUMN id bigint GENERATED ALWAYS AS IDENTITY, ADD COLUMN address text NOT NULL DEFAULT '', ADD COLUMN agent text NOT NULL DEFAULT '';
CREATE INDEX session_person ON plainpath.session (person);

-- What was done to accounts, rights and releases, and by whom: nobody for what the command line did.
CREATE TABLE plainpath.audit (
    id      bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    at      timestamptz NOT NULL DEFAULT now(),
    by      bigint REFERENCES plainpath.person (id) ON DELETE SET NULL,
    what    text NOT NULL,
    details text[] NOT NULL DEFAULT '{}'
);

-- Links are shown once to whoever makes them, and kept nowhere.
DROP TABLE plainpath.mail;

-- +goose Down
CREATE TABLE plainpath.mail (
    id      bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    at      timestamptz NOT NULL DEFAULT now(),
    person  bigint NOT NULL REFERENCES plainpath.person (id) ON DELETE CASCADE,
    address text NOT NULL,
    subject text NOT NULL,
    body    text NOT NULL
);
DROP TABLE plainpath.audit, plainpath.device;
DROP INDEX plainpath.session_person;
ALTER TABLE plainpath.session DROP COLUMN id, DROP COLUMN address, DROP COLUMN agent;
DROP INDEX plainpath.sign_in_address;
ALTER TABLE plainpath.sign_in DROP COLUMN address, DROP COLUMN device, DROP COLUMN refused;
ALTER TABLE plainpath.person DROP COLUMN administrator;

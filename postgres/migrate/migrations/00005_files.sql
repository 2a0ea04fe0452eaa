-- +goose Up
-- A field of type address is one column of this type.
CREATE TYPE plainpath.address AS (lines text, town text, postcode text, country text);

-- An address on one line, as the program writes it.
CREATE FUNCTION plainpath.address_text(a plainpath.address) RETURNS text LANGUAGE sql IMMUTABLE AS $$
    SELECT nullif(concat_ws(', ', replace((a).lines, E'\n', ', '), nullif(concat_ws(' ', (a).postcode, (a).town), ''), (a).country), '')
$$;

-- Files that people gave, in pieces. The type, which the content decides, is empty until
-- all of a file has arrived. A file that no record took up is removed after a day.
CREATE TABLE plainpath.file (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    app        text NOT NULL,
    name       text NOT NULL CHECK (name <> ''),
    size       bigint NOT NULL CHECK (size > 0),
    media_type text,
    preview    bytea,
    kept       boolean NOT NULL DEFAULT false,
    added_by   bigint NOT NULL REFERENCES plainpath.person (id),
    added_at   timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX file_left ON plainpath.file (added_at) WHERE NOT kept;

CREATE TABLE plainpath.file_part (
    file   bigint NOT NULL REFERENCES plainpath.file (id) ON DELETE CASCADE,
    number integer NOT NULL,
    body   bytea NOT NULL,
    PRIMARY KEY (file, number)
);
ALTER TABLE plainpath.file_part ALTER COLUMN body SET STORAGE EXTERNAL;

ALTER TABLE plainpath.person ADD COLUMN picture bigint REFERENCES plainpath.file (id);

-- +goose Down
ALTER TABLE plainpath.person DROP COLUMN picture;
DROP TABLE plainpath.file_part, plainpath.file;
DROP FUNCTION plainpath.address_text(plainpath.address);
DROP TYPE plainpath.address;

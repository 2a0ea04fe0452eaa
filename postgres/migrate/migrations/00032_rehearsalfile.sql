-- +goose Up
-- Files that kept rehearsals give. They stay as long as one does.
CREATE TABLE plainpath.rehearsal_file (
    app  text NOT NULL,
    file bigint PRIMARY KEY REFERENCES plainpath.file (id),
    at   timestamptz NOT NULL DEFAULT now()
);

-- +goose Down
DROP TABLE plainpath.rehearsal_file;

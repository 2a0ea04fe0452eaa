-- +goose Up
-- A set of files being brought in: what was found in them, what is to become of them,
-- and what became of them.
CREATE TABLE plainpath.intake (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    app        text NOT NULL,
    space      text NOT NULL,
    person     bigint NOT NULL REFERENCES plainpath.person (id),
    state      text NOT NULL DEFAULT 'uploading',
    files      jsonb NOT NULL DEFAULT '[]',
    found      jsonb NOT NULL DEFAULT '[]',
    plan       jsonb,
    result     jsonb,
    failure    text NOT NULL DEFAULT '',
    doing      text NOT NULL DEFAULT '',
    done       bigint NOT NULL DEFAULT 0,
    total      bigint NOT NULL DEFAULT 0,
    stop       boolean NOT NULL DEFAULT false,
    created_at timestamptz NOT NULL DEFAULT now(),
    changed_at timestamptz NOT NULL DEFAULT now(),
    FOREIGN KEY (app, space) REFERENCES plainpath.space (app, key)
);

CREATE TABLE plainpath.intake_part (
    intake bigint NOT NULL REFERENCES plainpath.intake (id) ON DELETE CASCADE,
    file   integer NOT NULL,
    part   integer NOT NULL,
    data   bytea NOT NULL,
    PRIMARY KEY (intake, file, part)
);

CREATE TABLE plainpath.intake_refused (
    intake  bigint NOT NULL REFERENCES plainpath.intake (id) ON DELETE CASCADE,
    sheet   integer NOT NULL,
    line    integer NOT NULL,
    heading text NOT NULL,
    value   text NOT NULL,
    reason  text NOT NULL
);
CREATE INDEX intake_refused_line ON plainpath.intake_refused (intake, sheet, line);

-- +goose Down
DROP TABLE plainpath.intake_refused, plainpath.intake_part, plainpath.intake;

-- +goose Up
-- What was done and who signed in is read from the latest on, and years of it are kept.
CREATE INDEX audit_at ON plainpath.audit (at DESC);
CREATE INDEX sign_in_at ON plainpath.sign_in (at DESC);

-- +goose Down
DROP INDEX plainpath.audit_at, plainpath.sign_in_at;

-- +goose Up
-- Edits of several documents that are one act, a new key and what follows it, are taken back together.
CREATE SEQUENCE plainpath.together;
ALTER TABLE plainpath.edit ADD COLUMN together bigint;
CREATE INDEX edit_together ON plainpath.edit (together) WHERE together IS NOT NULL;

-- +goose Down
ALTER TABLE plainpath.edit DROP COLUMN together;
DROP SEQUENCE plainpath.together;

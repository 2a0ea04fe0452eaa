-- +goose Up
-- The key of a document can change; its edits go with it.
ALTER TABLE plainpath.edit DROP CONSTRAINT edit_app_kind_key_fkey,
    ADD CONSTRAINT edit_app_kind_key_fkey FOREIGN KEY (app, kind, key) REFERENCES plainpath.document (app, kind, key) ON UPDATE CASCADE;

-- +goose Down
ALTER TABLE plainpath.edit DROP CONSTRAINT edit_app_kind_key_fkey,
    ADD CONSTRAINT edit_app_kind_key_fkey FOREIGN KEY (app, kind, key) REFERENCES plainpath.document (app, kind, key);

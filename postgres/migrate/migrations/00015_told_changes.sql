-- +goose Up
-- A statement that changes records tells which, as far as they are few, where in the history
-- they stand as they were before, and which browser tab asked for it.
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION plainpath.write_history() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
    source text;
    changed bigint[];
    ids text := pg_get_serial_sequence(format('%I.history', TG_TABLE_SCHEMA), 'id');
    before_first bigint;
BEGIN
    IF TG_OP = 'DELETE' THEN
        changed := ARRAY(SELECT id FROM old_rows LIMIT 101);
    ELSE
        changed := ARRAY(SELECT id FROM new_rows LIMIT 101);
    END IF;
    IF cardinality(changed) = 0 THEN
        RETURN NULL;
    END IF;
    source := CASE TG_OP
        WHEN 'INSERT' THEN 'SELECT "@new".id, NULL::jsonb, to_jsonb("@new") FROM new_rows "@new"'
        WHEN 'DELETE' THEN 'SELECT "@old".id, to_jsonb("@old"), NULL::jsonb FROM old_rows "@old"'
        ELSE 'SELECT "@new".id, to_jsonb("@old"), to_jsonb("@new") FROM new_rows "@new" JOIN old_rows "@old" USING (id)'
    END;
    before_first := nextval(ids);
    EXECUTE format(
        'INSERT INTO %I.history (object, record, action, before, after, person, cause)
         SELECT %L, s.id, %L, s.before, s.after, nullif(current_setting(''plainpath.person'', true), '''')::bigint,
                nullif(current_setting(''plainpath.cause'', true), '''')::jsonb
         FROM (%s) s (id, before, after)',
        TG_TABLE_SCHEMA, TG_TABLE_NAME,
        CASE TG_OP WHEN 'INSERT' THEN 'add' WHEN 'DELETE' THEN 'remove' ELSE 'change' END, source);
    PERFORM pg_notify('plainpath_changes', json_build_object(
        'schema', TG_TABLE_SCHEMA, 'object', TG_TABLE_NAME,
        'keys', CASE WHEN cardinality(changed) <= 100 THEN to_json(changed) END,
        'first', before_first, 'last', currval(ids),
        'tab', coalesce(current_setting('plainpath.tab', true), ''))::text);
    RETURN NULL;
END $$;
-- +goose StatementEnd

-- +goose Down
SELECT 1;

-- +goose Up
-- Every statement that changes records is told once, to whoever shows them. The rows have
-- names that no field can have: a field called n would be taken for the row called so.
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION plainpath.write_history() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
    source text;
BEGIN
    source := CASE TG_OP
        WHEN 'INSERT' THEN 'SELECT "@new".id, NULL::jsonb, to_jsonb("@new") FROM new_rows "@new"'
        WHEN 'DELETE' THEN 'SELECT "@old".id, to_jsonb("@old"), NULL::jsonb FROM old_rows "@old"'
        ELSE 'SELECT "@new".id, to_jsonb("@old"), to_jsonb("@new") FROM new_rows "@new" JOIN old_rows "@old" USING (id)'
    END;
    EXECUTE format(
        'INSERT INTO %I.history (object, record, action, before, after, person, cause)
         SELECT %L, s.id, %L, s.before, s.after, nullif(current_setting(''plainpath.person'', true), '''')::bigint,
                nullif(current_setting(''plainpath.cause'', true), '''')::jsonb
         FROM (%s) s (id, before, after)',
        TG_TABLE_SCHEMA, TG_TABLE_NAME,
        CASE TG_OP WHEN 'INSERT' THEN 'add' WHEN 'DELETE' THEN 'remove' ELSE 'change' END, source);
    PERFORM pg_notify('plainpath_changes', TG_TABLE_SCHEMA || '.' || TG_TABLE_NAME);
    RETURN NULL;
END $$;
-- +goose StatementEnd

-- +goose Down
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION plainpath.write_history() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
    source text;
BEGIN
    source := CASE TG_OP
        WHEN 'INSERT' THEN 'SELECT n.id, NULL::jsonb, to_jsonb(n) FROM new_rows n'
        WHEN 'DELETE' THEN 'SELECT o.id, to_jsonb(o), NULL::jsonb FROM old_rows o'
        ELSE 'SELECT n.id, to_jsonb(o), to_jsonb(n) FROM new_rows n JOIN old_rows o USING (id)'
    END;
    EXECUTE format(
        'INSERT INTO %I.history (object, record, action, before, after, person, cause)
         SELECT %L, s.id, %L, s.before, s.after, nullif(current_setting(''plainpath.person'', true), '''')::bigint,
                nullif(current_setting(''plainpath.cause'', true), '''')::jsonb
         FROM (%s) s (id, before, after)',
        TG_TABLE_SCHEMA, TG_TABLE_NAME,
        CASE TG_OP WHEN 'INSERT' THEN 'add' WHEN 'DELETE' THEN 'remove' ELSE 'change' END, source);
    RETURN NULL;
END $$;
-- +goose StatementEnd

-- +goose Up
-- The history knows the records of a table by a name that the table keeps whatever it is called, so that
-- a new name changes no line of it, and a new table of an old name does not get what was another's.
CREATE FUNCTION plainpath.history_name(t regclass) RETURNS text LANGUAGE sql STABLE AS $$
    SELECT split_part(encode(tgargs, 'escape'), '\000', 1) FROM pg_trigger WHERE tgrelid = t AND tgname = 'history_add'
$$;

-- +goose StatementBegin
CREATE FUNCTION plainpath.keep_history(t regclass) RETURNS void LANGUAGE plpgsql AS $$
DECLARE
    called text := (SELECT relname FROM pg_class WHERE oid = t);
    space text := (SELECT n.nspname FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE c.oid = t);
    name text := called;
    n int := 1;
    taken boolean;
BEGIN
    LOOP
        EXECUTE format('SELECT EXISTS (SELECT FROM %I.history WHERE object = $1)', space) INTO taken USING name;
        EXIT WHEN NOT taken AND NOT EXISTS (SELECT FROM pg_class c JOIN pg_namespace s ON s.oid = c.relnamespace
            WHERE s.nspname = space AND c.relkind = 'r' AND plainpath.history_name(c.oid) = name);
        n := n + 1;
        name := called || '~' || n;
    END LOOP;
    EXECUTE format('CREATE TRIGGER history_add AFTER INSERT ON %s REFERENCING NEW TABLE AS new_rows FOR EACH STATEMENT EXECUTE FUNCTION plainpath.write_history(%L)', t, name);
    EXECUTE format('CREATE TRIGGER history_change AFTER UPDATE ON %s REFERENCING OLD TABLE AS old_rows NEW TABLE AS new_rows FOR EACH STATEMENT EXECUTE FUNCTION plainpath.write_history(%L)', t, name);
    EXECUTE format('CREATE TRIGGER history_remove AFTER DELETE ON %s REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION plainpath.write_history(%L)', t, name);
END $$;

DO $$
DECLARE
    g record;
BEGIN
    FOR g IN SELECT pg_get_triggerdef(t.oid) AS made, t.tgname, c.oid::regclass AS t, c.relname FROM pg_trigger t JOIN pg_class c ON c.oid = t.tgrelid
        WHERE t.tgfoid = 'plainpath.write_history'::regproc LOOP
        EXECUTE format('DROP TRIGGER %I ON %s', g.tgname, g.t);
        EXECUTE replace(g.made, 'write_history()', format('write_history(%L)', g.relname));
    END LOOP;
END $$;
-- +goose StatementEnd

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
        TG_TABLE_SCHEMA, TG_ARGV[0],
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
-- Tables go on under the names they had in the history; one that was called otherwise since loses sight of it.
DROP FUNCTION plainpath.keep_history(regclass);
DROP FUNCTION plainpath.history_name(regclass);

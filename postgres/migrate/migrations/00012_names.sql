-- +goose Up
-- Names of constraints, indexes and sequences were put together with underscores, which keys have as well, and
-- were cut in silence when they were long. Now they are object.field.kind, ending in a digest where they would be
-- cut; store/names.go has the same. What was cut cannot be trusted: it goes, and is made anew with the next change
-- of the tables.
-- +goose StatementBegin
DO $$
DECLARE
    c record;
    kind text;
    old text;
    new text;
BEGIN
    FOR c IN SELECT n.nspname, r.oid AS table_oid, r.relname, a.attname, a.attnum, col_description(r.oid, a.attnum) AS note
        FROM pg_namespace n JOIN pg_class r ON r.relnamespace = n.oid AND r.relkind = 'r'
        JOIN pg_attribute a ON a.attrelid = r.oid AND a.attnum > 0 AND NOT a.attisdropped
        WHERE n.nspname IN (SELECT schema FROM plainpath.space) AND col_description(r.oid, a.attnum) LIKE 'plainpath %'
    LOOP
        FOREACH kind IN ARRAY ARRAY['unique', 'filled', 'currency', 'choice', 'least', 'most', 'reference', 'order', 'contains', 'includes', 'number'] LOOP
            old := c.relname || '_' || c.attname || '_' || kind;
            new := c.relname || '.' || c.attname || '.' || kind;
            IF length(new) > 63 THEN
                new := left(new, 63 - 14 - length(kind)) || '~' || substr(encode(sha256(convert_to(new, 'UTF8')), 'hex'), 1, 12) || '.' || kind;
            END IF;
            IF length(old) > 63 THEN
                old := left(old, 63);
                EXECUTE format('ALTER TABLE %I.%I DROP CONSTRAINT IF EXISTS %I', c.nspname, c.relname, old);
                EXECUTE format('COMMENT ON COLUMN %I.%I.%I IS %L', c.nspname, c.relname, c.attname, regexp_replace(c.note, '^(plainpath (hidden )?)\{', '\1{"as":"cut",'));
            ELSIF EXISTS (SELECT FROM pg_constraint WHERE conrelid = c.table_oid AND conname = old) THEN
                EXECUTE format('ALTER TABLE %I.%I RENAME CONSTRAINT %I TO %I', c.nspname, c.relname, old, new);
            ELSIF EXISTS (SELECT FROM pg_index x JOIN pg_class i ON i.oid = x.indexrelid WHERE x.indrelid = c.table_oid AND i.relname = old) THEN
                EXECUTE format('ALTER INDEX %I.%I RENAME TO %I', c.nspname, old, new);
            END IF;
            IF kind = 'number' AND pg_get_serial_sequence(format('%I.%I', c.nspname, c.relname), c.attname) IS NULL
                AND EXISTS (SELECT FROM pg_class s JOIN pg_namespace n ON n.oid = s.relnamespace WHERE n.nspname = c.nspname AND s.relkind = 'S' AND s.relname = left(old, 63)) THEN
                EXECUTE format('ALTER SEQUENCE %I.%I RENAME TO %I', c.nspname, left(old, 63), new);
            END IF;
        END LOOP;
    END LOOP;
END $$;
-- +goose StatementEnd

-- +goose Down
-- Names are what they are; the program before looks for its own and makes them where they are missing.
SELECT 1;

-- +goose Up
-- Texts are searched without regard to case, by the full mappings of Unicode (the capitals of ß are
-- SS), and where a field says so without accents. value.Fold and value.Unaccented are the same in Go.
CREATE FUNCTION plainpath.folded(t text) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT CASE WHEN octet_length(t) = char_length(t) THEN lower(t COLLATE "C") COLLATE "default"
                ELSE translate(lower(upper(t COLLATE "und-x-icu") COLLATE "und-x-icu"), 'ς', 'σ') COLLATE "default" END
$$;
CREATE FUNCTION plainpath.unaccented(t text) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT CASE WHEN octet_length(t) = char_length(t) THEN t
                ELSE replace(replace(translate(normalize(regexp_replace(normalize(t, NFD), '[\u0300-\u036f]', '', 'g'), NFC),
                     'øłđħŧıØŁĐĦŦ', 'oldhtiOLDHT'), 'æ', 'ae'), 'œ', 'oe') END
$$;

-- Indexes over many records are made in the background, one after the other.
ALTER TABLE plainpath.space ADD COLUMN unindexed boolean NOT NULL DEFAULT false;
UPDATE plainpath.space SET unindexed = true;
-- A day as text, the same whatever the session is set to.
CREATE FUNCTION plainpath.day_text(d date) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT to_char(d, 'YYYY-MM-DD')
$$;

-- Columns that are written anew beside the old ones while everybody works: how far it is, and that what is
-- changed meanwhile is written once more.
CREATE TABLE plainpath.readying (schema text PRIMARY KEY, what text NOT NULL, done bigint NOT NULL, total bigint NOT NULL);
-- +goose StatementBegin
CREATE FUNCTION plainpath.not_ready() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RETURN jsonb_populate_record(NEW, jsonb_build_object(TG_ARGV[0], NULL, TG_ARGV[0] || '_currency', NULL));
END
$$;
-- +goose StatementEnd

-- +goose Down
DROP FUNCTION plainpath.not_ready();
DROP TABLE plainpath.readying;
DROP FUNCTION plainpath.day_text(date);
ALTER TABLE plainpath.space DROP COLUMN unindexed;
DROP FUNCTION plainpath.unaccented(text);
DROP FUNCTION plainpath.folded(text);

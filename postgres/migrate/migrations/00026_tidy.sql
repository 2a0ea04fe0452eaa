-- +goose Up
-- A text as it is stored, as value.Tidy has it: one of nothing but blanks is empty.
CREATE FUNCTION plainpath.tidy(t text) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT CASE WHEN t ~ '\S' THEN normalize(t, NFC) END
$$;

-- +goose Down
DROP FUNCTION plainpath.tidy(text);

-- +goose Up
-- What expressions compute stays within what can be stored and told: a whole number of 64 bits, a day or a
-- moment of the years 1 to 9999. What does not is NULL, and the expression says why beside it.
CREATE FUNCTION plainpath.whole(n numeric) RETURNS bigint LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT CASE WHEN n BETWEEN -9223372036854775808 AND 9223372036854775807 THEN n::bigint END
$$;
CREATE FUNCTION plainpath.day(d date, n numeric) RETURNS date LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT CASE WHEN n BETWEEN DATE '0001-01-01' - d AND DATE '9999-12-31' - d THEN d + n::int END
$$;
CREATE FUNCTION plainpath.moment(t timestamptz, minutes bigint) RETURNS timestamptz LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT CASE WHEN extract(epoch FROM t) + minutes::numeric * 60 >= extract(epoch FROM TIMESTAMPTZ '0001-01-02 00:00:00+00')
                 AND extract(epoch FROM t) + minutes::numeric * 60 < extract(epoch FROM TIMESTAMPTZ '9999-12-31 00:00:00+00')
                THEN t + make_interval(secs => 60) * minutes END
$$;
-- Several choices are a set: the order they were given in makes no difference.
CREATE FUNCTION plainpath.set(keys text[]) RETURNS text[] LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS $$
    SELECT array_agg(k ORDER BY k COLLATE "C") FROM unnest(keys) k
$$;

-- +goose Down
DROP FUNCTION plainpath.set(text[]);
DROP FUNCTION plainpath.moment(timestamptz, bigint);
DROP FUNCTION plainpath.day(date, numeric);
DROP FUNCTION plainpath.whole(numeric);

-- +goose Up
-- What expressions compute of dates and texts, as core/value does.
CREATE FUNCTION plainpath.months(d date, n numeric) RETURNS date LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT CASE WHEN (extract(year FROM d) - 1) * 12 + extract(month FROM d) - 1 + n BETWEEN 0 AND 119987
                THEN (d + make_interval(months => (CASE WHEN abs(n) <= 120000 THEN n END)::int))::date END
$$;
CREATE FUNCTION plainpath.months_between(a date, b date) RETURNS bigint LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT CASE WHEN b >= a
        THEN ((extract(year FROM b) - extract(year FROM a)) * 12 + extract(month FROM b) - extract(month FROM a))::bigint - (extract(day FROM b) < extract(day FROM a))::int
        ELSE -(((extract(year FROM a) - extract(year FROM b)) * 12 + extract(month FROM a) - extract(month FROM b))::bigint - (extract(day FROM a) < extract(day FROM b))::int) END
$$;
CREATE FUNCTION plainpath.working_days(d date) RETURNS bigint LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT ((d - DATE '0001-01-01' + 1) / 7 * 5 + least((d - DATE '0001-01-01' + 1) % 7, 5))::bigint
$$;
CREATE FUNCTION plainpath.working_day(d date, n numeric) RETURNS date LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT CASE
        WHEN abs(n) > 4000000 THEN NULL
        WHEN n > 0 THEN plainpath.day(d, div(n, 5) * 7 + mod(n, 5) - greatest(extract(isodow FROM d) - 5, 0) + CASE WHEN least(extract(isodow FROM d), 5) + mod(n, 5) > 5 THEN 2 ELSE 0 END)
        WHEN n < 0 THEN plainpath.day(d, -(div(-n, 5) * 7 + mod(-n, 5) - CASE WHEN extract(isodow FROM d) > 5 THEN 8 - extract(isodow FROM d) ELSE 0 END
            + CASE WHEN (CASE WHEN extract(isodow FROM d) > 5 THEN 1 ELSE extract(isodow FROM d) END) - mod(-n, 5) < 1 THEN 2 ELSE 0 END))
        WHEN n = 0 THEN d END
$$;
-- NULL where it would take more bytes than it may.
CREATE FUNCTION plainpath.replaced(t text, what text, by text, most bigint) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT CASE WHEN what = '' THEN t
        WHEN octet_length(t) + (octet_length(t) - octet_length(replace(t, what, ''))) / octet_length(what) * (octet_length(by) - octet_length(what))::bigint <= most
        THEN replace(t, what, by) END
$$;

-- +goose Down
DROP FUNCTION plainpath.replaced(text, text, text, bigint);
DROP FUNCTION plainpath.working_day(date, numeric);
DROP FUNCTION plainpath.working_days(date);
DROP FUNCTION plainpath.months_between(date, date);
DROP FUNCTION plainpath.months(date, numeric);

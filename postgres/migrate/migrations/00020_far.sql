-- +goose Up
-- A constant is cast when a statement is planned, whatever the condition around it says: what is
-- too far away must not be cast at all.
CREATE OR REPLACE FUNCTION plainpath.day(d date, n numeric) RETURNS date LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT CASE WHEN n BETWEEN DATE '0001-01-01' - d AND DATE '9999-12-31' - d THEN d + (CASE WHEN abs(n) < 4000000 THEN n END)::int END
$$;
CREATE OR REPLACE FUNCTION plainpath.moment(t timestamptz, minutes bigint) RETURNS timestamptz LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT CASE WHEN extract(epoch FROM t) + minutes::numeric * 60 >= extract(epoch FROM TIMESTAMPTZ '0001-01-02 00:00:00+00')
                 AND extract(epoch FROM t) + minutes::numeric * 60 < extract(epoch FROM TIMESTAMPTZ '9999-12-31 00:00:00+00')
                THEN t + make_interval(secs => 60) * (CASE WHEN minutes BETWEEN -6000000000 AND 6000000000 THEN minutes END) END
$$;

-- +goose Down
CREATE OR REPLACE FUNCTION plainpath.day(d date, n numeric) RETURNS date LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT CASE WHEN n BETWEEN DATE '0001-01-01' - d AND DATE '9999-12-31' - d THEN d + n::int END
$$;
CREATE OR REPLACE FUNCTION plainpath.moment(t timestamptz, minutes bigint) RETURNS timestamptz LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
    SELECT CASE WHEN extract(epoch FROM t) + minutes::numeric * 60 >= extract(epoch FROM TIMESTAMPTZ '0001-01-02 00:00:00+00')
                 AND extract(epoch FROM t) + minutes::numeric * 60 < extract(epoch FROM TIMESTAMPTZ '9999-12-31 00:00:00+00')
                THEN t + make_interval(secs => 60) * minutes END
$$;

SELECT k, k2, l2, count(*), c0, sum(x0), sum(x1), count(x1), max(x2)
 FROM (SELECT (CASE WHEN t0."opened" < (date_trunc('quarter', t0."opened" AT TIME ZONE $1::text) AT TIME ZONE $1::text) THEN date_trunc('quarter', t0."opened" AT TIME ZONE $1::text) - interval '3 months' WHEN t0."opened" >= ((date_trunc('quarter', t0."opened" AT TIME ZONE $1::text) + interval '3 months') AT TIME ZONE $1::text) THEN date_trunc('quarter', t0."opened" AT TIME ZONE $1::text) + interval '3 months' ELSE date_trunc('quarter', t0."opened" AT TIME ZONE $1::text) END)::date AS k, t1."serial" AS l2, t1.id AS k2, t1."price" AS x0, t1."price_currency" AS c0, t1."stops" AS x1, t0."due" AS x2
 FROM "sp"."call" t0
 LEFT JOIN "sp"."lift" t1 ON t1.id = t0."lift"
 WHERE TRUE) q
 GROUP BY k, k2, l2, c0
 ORDER BY k, k, l2 COLLATE "und-x-icu" DESC NULLS LAST, k2, l2
 LIMIT 1001
-- $1: America/Havana

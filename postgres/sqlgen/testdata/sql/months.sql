SELECT k, count(*), c0, sum(x0), sum(x1), count(x1), max(x2)
 FROM (SELECT date_trunc('month', t0."opened" AT TIME ZONE $1::text)::date AS k, t1."price" AS x0, t1."price_currency" AS c0, t1."stops" AS x1, t0."due" AS x2
 FROM "sp"."call" t0
 LEFT JOIN "sp"."lift" t1 ON t1.id = t0."lift"
 WHERE TRUE) q
 GROUP BY k, c0
 ORDER BY k, k
 LIMIT 1001
-- $1: UTC

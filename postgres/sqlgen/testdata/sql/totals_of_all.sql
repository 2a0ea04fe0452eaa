SELECT count(*), c0, sum(x0), sum(x1), count(x1), max(x2)
 FROM (SELECT t1."price" AS x0, t1."price_currency" AS c0, t1."stops" AS x1, t0."due" AS x2
 FROM "sp"."call" t0
 LEFT JOIN "sp"."lift" t1 ON t1.id = t0."lift"
 WHERE TRUE) q
 GROUP BY c0

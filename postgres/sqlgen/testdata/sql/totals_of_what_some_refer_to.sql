SELECT t0.id, t0."what", t1.id, CASE WHEN t1.id IS NOT NULL THEN coalesce(t3.v0, 0) END
 FROM "sp"."call" t0
 LEFT JOIN "sp"."lift" t1 ON t1.id = t0."lift"
 LEFT JOIN (SELECT t2."lift" AS k, count(*) AS v0
 FROM "sp"."call" t2
 WHERE t2."lift" IN (SELECT t1.id
 FROM "sp"."call" t0
 LEFT JOIN "sp"."lift" t1 ON t1.id = t0."lift"
 WHERE t0.id = ANY($1::bigint[]))
 AND ((t2."state" = 'done'::text) IS NOT TRUE) IS TRUE
 GROUP BY t2."lift") t3 ON t3.k = t1.id
 WHERE t0.id = ANY($2::bigint[])
 ORDER BY t0.id
-- $1: [5]
-- $2: [5]

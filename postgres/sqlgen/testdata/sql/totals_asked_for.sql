SELECT t0.id, t0."serial", coalesce(t2.v0, 0), t0."stops"
 FROM "sp"."lift" t0
 LEFT JOIN (SELECT t1."lift" AS k, count(*) AS v0
 FROM "sp"."call" t1
 WHERE t1."lift" IS NOT NULL
 AND ((t1."state" = 'done'::text) IS NOT TRUE) IS TRUE
 GROUP BY t1."lift") t2 ON t2.k = t0.id
 WHERE coalesce(t2.v0, 0) > $1::bigint
 ORDER BY t0."stops", t0.id
 LIMIT 40
-- $1: 3

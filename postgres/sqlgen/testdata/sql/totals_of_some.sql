SELECT t0.id, t0."serial", coalesce(t2.v0, 0), t0."stops"
 FROM "sp"."lift" t0
 LEFT JOIN (SELECT t1."lift" AS k, count(*) AS v0
 FROM "sp"."call" t1
 WHERE t1."lift" = ANY($1::bigint[])
 AND ((t1."state" = 'done'::text) IS NOT TRUE) IS TRUE
 GROUP BY t1."lift") t2 ON t2.k = t0.id
 WHERE (t0.id = ANY($2::bigint[])
 AND coalesce(t2.v0, 0) > $3::bigint)
 ORDER BY t0."stops", t0.id
-- $1: [3 4]
-- $2: [3 4]
-- $3: 3

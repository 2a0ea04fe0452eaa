WITH page AS MATERIALIZED (SELECT t0.id
 FROM "sp"."lift" t0
 WHERE TRUE
 ORDER BY t0."stops", t0.id
 LIMIT 40) SELECT t0.id, t0."serial", coalesce(t2.v0, 0), t2.v1, t0."stops"
 FROM page
 JOIN "sp"."lift" t0 ON t0.id = page.id
 LEFT JOIN (SELECT t1."lift" AS k, count(*) FILTER (WHERE ((t1."state" = 'done'::text) IS NOT TRUE) IS TRUE) AS v0, max(t1."due") AS v1
 FROM "sp"."call" t1
 WHERE t1."lift" IN (SELECT id
 FROM page)
 GROUP BY t1."lift") t2 ON t2.k = t0.id
 ORDER BY t0."stops", t0.id

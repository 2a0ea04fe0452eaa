SELECT t0.id, t0."serial", coalesce((SELECT count(*)
 FROM "sp"."call" t1
 WHERE t1."lift" = t0.id
 AND ((t1."due" < t0."checked") IS TRUE) IS TRUE), 0), t0."stops"
 FROM "sp"."lift" t0
 WHERE TRUE
 ORDER BY t0."stops", t0.id
 LIMIT 40

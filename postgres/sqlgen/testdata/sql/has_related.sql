SELECT t0.id, t0."serial", t0."serial"
 FROM "sp"."lift" t0
 WHERE EXISTS (SELECT 1
 FROM "sp"."call" t1
 WHERE t1."lift" = t0.id
 AND plainpath.folded(t1."what") LIKE $1::text)
 ORDER BY t0.id
-- $1: %door%

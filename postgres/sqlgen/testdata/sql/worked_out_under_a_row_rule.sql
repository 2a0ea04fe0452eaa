SELECT t0.id, t0."what", t1.id, CASE WHEN t1.id IS NOT NULL THEN (((t1."serial" || ' ('::text) || t3."name") || ')'::text) END
 FROM "sp"."call" t0
 LEFT JOIN "sp"."lift" t1 ON t1.id = t0."lift"
 AND plainpath.folded(t1."serial") LIKE $1::text
 LEFT JOIN "sp"."lift" t2 ON t2.id = t0."lift"
 LEFT JOIN "sp"."customer" t3 ON t3.id = t2."customer"
 WHERE TRUE
 ORDER BY t0.id
 LIMIT 50
-- $1: ql-1%

SELECT count(*)
 FROM "sp"."call" t0
 LEFT JOIN "sp"."lift" t1 ON t1.id = t0."lift"
 AND plainpath.folded(t1."serial") LIKE $1::text
 WHERE plainpath.folded(t1."serial") LIKE $2::text
-- $1: ql-1%
-- $2: %9\%%

SELECT count(*)
 FROM "sp"."call" t0
 LEFT JOIN "sp"."lift" t1 ON t1.id = t0."lift"
 AND t1."serial" ILIKE $1::text
 WHERE t1."serial" ILIKE $2::text
-- $1: QL-1%
-- $2: %9\%%

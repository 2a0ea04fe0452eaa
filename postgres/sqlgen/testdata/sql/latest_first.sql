WITH filled AS MATERIALIZED (SELECT t0.id, t0."what", t0."what", t1.id, t1."serial", t2.id, t2."name", to_jsonb(t2."address")::text, t1."price", t1."price_currency", t0."due"
 FROM "sp"."call" t0
 LEFT JOIN "sp"."lift" t1 ON t1.id = t0."lift"
 LEFT JOIN "sp"."customer" t2 ON t2.id = t1."customer"
 WHERE TRUE
 AND t0."due" IS NOT NULL
 ORDER BY t0."due" DESC, t0.id DESC
 LIMIT 50) SELECT *
 FROM filled UNION ALL (SELECT t0.id, t0."what", t0."what", t1.id, t1."serial", t2.id, t2."name", to_jsonb(t2."address")::text, t1."price", t1."price_currency", t0."due"
 FROM "sp"."call" t0
 LEFT JOIN "sp"."lift" t1 ON t1.id = t0."lift"
 LEFT JOIN "sp"."customer" t2 ON t2.id = t1."customer"
 WHERE TRUE
 AND t0."due" IS NULL
 ORDER BY t0.id DESC
 LIMIT 50 - (SELECT count(*)
 FROM filled))

SELECT t0.id, t0."what", t0."what", t1.id, t1."serial", t2.id, t2."name", to_jsonb(t2."address")::text, t1."price", t1."price_currency", array_position($1::text[], t0."state")::bigint
 FROM "sp"."call" t0
 LEFT JOIN "sp"."lift" t1 ON t1.id = t0."lift"
 LEFT JOIN "sp"."customer" t2 ON t2.id = t1."customer"
 WHERE TRUE
 AND ((t1."price_currency" < $2::text
 OR t1."price_currency" IS NULL)
 OR t1."price_currency" = $2::text
 AND ((t1."price" < $3::numeric
 OR t1."price" IS NULL)
 OR t1."price" = $3::numeric
 AND ((array_position($1::text[], t0."state")::bigint > $4::bigint
 OR array_position($1::text[], t0."state")::bigint IS NULL)
 OR array_position($1::text[], t0."state")::bigint = $4::bigint
 AND t0.id > $5::bigint)))
 ORDER BY t1."price_currency" DESC NULLS LAST, t1."price" DESC NULLS LAST, array_position($1::text[], t0."state")::bigint, t0.id
 LIMIT 50
-- $1: [new done]
-- $2: EUR
-- $3: 12.5
-- $4: 1
-- $5: 77

SELECT t0.id, t0."what", t0."what", t1.id, t1."serial", t2.id, t2."name", to_jsonb(t2."address")::text, t1."price", t1."price_currency", array_position($1::text[], t0."state")::bigint
 FROM "sp"."call" t0
 LEFT JOIN "sp"."lift" t1 ON t1.id = t0."lift"
 LEFT JOIN "sp"."customer" t2 ON t2.id = t1."customer"
 WHERE TRUE
 AND t1."price_currency" <= $2::text
 AND (t1."price_currency" < $3::text
 OR t1."price_currency" = $3::text
 AND (t1."price" < $4::numeric
 OR t1."price" = $4::numeric
 AND ((array_position($1::text[], t0."state")::bigint > $5::bigint
 OR array_position($1::text[], t0."state")::bigint IS NULL)
 OR array_position($1::text[], t0."state")::bigint = $5::bigint
 AND t0.id > $6::bigint)))
 ORDER BY t1."price_currency" DESC, t1."price" DESC, array_position($1::text[], t0."state")::bigint, t0.id
 LIMIT 50
-- $1: [new done]
-- $2: EUR
-- $3: EUR
-- $4: 12.5
-- $5: 1
-- $6: 77

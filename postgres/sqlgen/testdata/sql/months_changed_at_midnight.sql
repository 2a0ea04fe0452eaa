SELECT k, count(*)
 FROM (SELECT (CASE WHEN t0."opened" < (date_trunc('month', t0."opened" AT TIME ZONE $1::text) AT TIME ZONE $1::text) THEN date_trunc('month', t0."opened" AT TIME ZONE $1::text) - interval '1 month' WHEN t0."opened" >= ((date_trunc('month', t0."opened" AT TIME ZONE $1::text) + interval '1 month') AT TIME ZONE $1::text) THEN date_trunc('month', t0."opened" AT TIME ZONE $1::text) + interval '1 month' ELSE date_trunc('month', t0."opened" AT TIME ZONE $1::text) END)::date AS k
 FROM "sp"."call" t0
 WHERE TRUE) q
 GROUP BY k
 ORDER BY k, k
 LIMIT 1001
-- $1: America/Havana

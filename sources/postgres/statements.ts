/* Every statement that looking around a PostgreSQL source sends. Read top to bottom, this is what we ask of it. */

/** Version, clock, and what the role may do. */
export const about = `
  SELECT current_setting('server_version') AS version,
         current_user AS role,
         clock_timestamp() AS now,
         pg_is_in_recovery() AS standby,
         (SELECT rolsuper FROM pg_roles WHERE rolname = current_user) AS super,
         has_database_privilege(current_database(), 'CREATE') AS may_create,
         (SELECT count(*) FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
           WHERE c.relkind IN ('r', 'p', 'v', 'm', 'f') AND n.nspname NOT LIKE 'pg\\_%' AND n.nspname <> 'information_schema'
             AND has_table_privilege(c.oid, 'SELECT')) AS readable,
         (SELECT count(*) FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
           WHERE c.relkind IN ('r', 'p') AND n.nspname NOT LIKE 'pg\\_%' AND n.nspname <> 'information_schema'
             AND (has_table_privilege(c.oid, 'INSERT') OR has_table_privilege(c.oid, 'UPDATE')
               OR has_table_privilege(c.oid, 'DELETE'))) AS writable`;

/** Tables and views that the role may read, with approximate counts (those of the last ANALYZE). */
export const tables = `
  SELECT n.nspname AS schema, c.relname AS name,
         CASE c.relkind WHEN 'v' THEN 'view' WHEN 'm' THEN 'view' ELSE 'table' END AS kind,
         CASE WHEN c.reltuples < 0 THEN NULL ELSE c.reltuples::bigint END AS about,
         obj_description(c.oid, 'pg_class') AS comment, c.oid::bigint AS oid
  FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
  WHERE c.relkind IN ('r', 'p', 'v', 'm', 'f') AND NOT c.relispartition
    AND n.nspname NOT LIKE 'pg\\_%' AND n.nspname <> 'information_schema' AND has_table_privilege(c.oid, 'SELECT')
  ORDER BY 1, 2 LIMIT 5000`;

/** A domain is read as what it is made over, however many domains that goes through. */
export const columns = `
  SELECT a.attrelid::bigint AS oid, a.attname AS name, format_type(a.atttypid, a.atttypmod) AS type,
         CASE t.typtype WHEN 'd' THEN (
           WITH RECURSIVE made(type, over) AS (
             SELECT t.oid, t.typbasetype
             UNION ALL SELECT b.oid, b.typbasetype FROM made JOIN pg_type b ON b.oid = made.over)
           SELECT type FROM made WHERE over = 0) ELSE a.atttypid END::bigint AS type_id,
         a.attgenerated <> '' OR a.attidentity = 'a' AS made, a.atthasdef OR a.attidentity <> '' AS usual,
         CASE WHEN a.atttypid IN ('varchar'::regtype, 'bpchar'::regtype) AND a.atttypmod > 4 THEN a.atttypmod - 4 END AS longest,
         CASE WHEN t.typtype = 'e' THEN ARRAY(SELECT e.enumlabel::text FROM pg_enum e WHERE e.enumtypid = t.oid ORDER BY e.enumsortorder)
           END AS among,
         NOT a.attnotnull AS may_be_blank, a.attnum AS number, col_description(a.attrelid, a.attnum) AS comment
  FROM pg_attribute a JOIN pg_class c ON c.oid = a.attrelid JOIN pg_namespace n ON n.oid = c.relnamespace
    JOIN pg_type t ON t.oid = a.atttypid
  WHERE a.attnum > 0 AND NOT a.attisdropped AND c.relkind IN ('r', 'p', 'v', 'm', 'f') AND NOT c.relispartition
    AND n.nspname NOT LIKE 'pg\\_%' AND n.nspname <> 'information_schema' AND has_column_privilege(c.oid, a.attnum, 'SELECT')
  ORDER BY a.attrelid, a.attnum LIMIT 100000`;

/** Primary keys, unique keys and foreign keys, columns in order. */
export const keys = `
  SELECT k.conrelid::bigint AS oid, k.contype::text AS kind, k.confrelid::bigint AS other,
         ARRAY(SELECT a.attname::text FROM unnest(k.conkey) WITH ORDINALITY AS u(n, i)
               JOIN pg_attribute a ON a.attrelid = k.conrelid AND a.attnum = u.n ORDER BY u.i) AS columns,
         ARRAY(SELECT a.attname::text FROM unnest(k.confkey) WITH ORDINALITY AS u(n, i)
               JOIN pg_attribute a ON a.attrelid = k.confrelid AND a.attnum = u.n ORDER BY u.i) AS other_columns
  FROM pg_constraint k WHERE k.contype IN ('p', 'u', 'f') LIMIT 50000`;

/** Where the columns of a result come from, as the server's own row description says. */
export const origins = `
  SELECT a.attrelid::bigint AS oid, a.attnum AS number, n.nspname AS schema, c.relname AS "table", a.attname AS "column"
  FROM unnest($1::bigint[], $2::int[]) AS asked(oid, number)
  JOIN pg_attribute a ON a.attrelid = asked.oid AND a.attnum = asked.number
  JOIN pg_class c ON c.oid = a.attrelid JOIN pg_namespace n ON n.oid = c.relnamespace`;

/**
 * What the catalog says of functions: whether any that a name may lead to is volatile, which is what all that change, lock,
 * wait, write or reach outside are (PostgreSQL, 38.7), or runs with the rights of somebody else.
 */
export const functions = `
  SELECT asked.schema, asked.name, bool_or(p.provolatile = 'v') AS volatile, bool_or(p.prosecdef) AS definer,
         bool_and(n.nspname = 'pg_catalog') AS built_in
  FROM unnest($1::text[], $2::text[]) AS asked(schema, name)
  JOIN pg_proc p ON p.proname = asked.name
  JOIN pg_namespace n ON n.oid = p.pronamespace
  WHERE CASE WHEN asked.schema IS NULL THEN pg_function_is_visible(p.oid) ELSE n.nspname = asked.schema END
  GROUP BY 1, 2`;

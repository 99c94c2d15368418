-- name: kept
SELECT name, value FROM kept WHERE person = %(person)s ORDER BY name;

-- name: keep
INSERT INTO kept (person, name, value) VALUES (%(person)s, %(name)s, %(value)s)
ON CONFLICT (person, name) DO UPDATE SET value = excluded.value;

-- name: drop_kept
DELETE FROM kept WHERE person = %(person)s AND name = %(name)s;

-- name: count_kept
SELECT count(*) FROM kept WHERE person = %(person)s AND name <> %(name)s;

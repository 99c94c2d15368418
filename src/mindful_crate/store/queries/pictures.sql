-- name: put_picture
INSERT INTO picture (name, hash, width, height, content, put_by)
VALUES (%(name)s, %(hash)s, %(width)s, %(height)s, %(content)s, %(put_by)s)
ON CONFLICT (name) DO UPDATE
SET hash = excluded.hash, width = excluded.width, height = excluded.height, content = excluded.content,
    put_by = excluded.put_by, put_at = now();

-- name: picture
SELECT hash, content FROM picture WHERE name = %(name)s;

-- name: drop_picture
DELETE FROM picture WHERE name = %(name)s;

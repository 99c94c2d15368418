-- name: settled
-- A document as it was settled last: in the world, or in those it goes on from up to there.
SELECT d.kind, d.number, d.seq, d.body
FROM unnest(%(worlds)s::text[], %(untils)s::bigint[]) w (world, until)
JOIN settled d ON d.world = w.world AND d.seq <= w.until
WHERE d.kind = %(kind)s AND d.number = %(number)s
ORDER BY d.seq DESC LIMIT 1;

-- name: settled_after
-- The documents that follow from one, in the order they were settled.
SELECT kind, number, seq, body FROM (
    SELECT DISTINCT ON (d.kind, d.number) d.kind, d.number, d.seq, d.body
    FROM unnest(%(worlds)s::text[], %(untils)s::bigint[]) w (world, until)
    JOIN settled_after a ON a.world = w.world AND a.before = %(before)s AND a.seq <= w.until
    JOIN settled d ON (d.world, d.kind, d.number, d.seq) = (a.world, a.kind, a.number, a.seq)
    ORDER BY d.kind, d.number, d.seq DESC
) found ORDER BY seq, kind, number;

-- name: settled_last
-- Of those of a kind the one that was settled last.
SELECT d.kind, d.number, d.seq, d.body
FROM unnest(%(worlds)s::text[], %(untils)s::bigint[]) w (world, until)
JOIN settled_after a ON a.world = w.world AND a.before = %(before)s AND a.kind = %(kind)s AND a.seq <= w.until
JOIN settled d ON (d.world, d.kind, d.number, d.seq) = (a.world, a.kind, a.number, a.seq)
ORDER BY d.seq DESC, d.number DESC LIMIT 1;

-- name: settled_latest
-- The last so many of a kind, the last one first.
WITH w AS (SELECT * FROM unnest(%(worlds)s::text[], %(untils)s::bigint[]) x (world, until))
SELECT d.kind, d.number, d.seq, d.body
FROM w JOIN settled d ON d.world = w.world AND d.seq <= w.until
WHERE d.kind = %(kind)s
  AND NOT EXISTS (SELECT FROM w v JOIN settled later ON later.world = v.world AND later.seq <= v.until
                  WHERE (later.kind, later.number) = (d.kind, d.number) AND later.seq > d.seq)
ORDER BY d.seq DESC, d.number DESC LIMIT %(most)s;

-- name: settled_found
-- The names of those in whose number or words something is found, the one that changed last first, and how many there are.
WITH w AS (SELECT * FROM unnest(%(worlds)s::text[], %(untils)s::bigint[]) x (world, until)), found AS (
    SELECT d.kind, d.number, d.latest
    FROM w JOIN settled d ON d.world = w.world AND d.seq <= w.until
    WHERE d.kind = ANY(%(kinds)s) AND (%(word)s = '' OR d.word = %(word)s)
      AND (%(find)s = '' OR position(%(find)s in lower(d.number)) > 0 OR position(%(find)s in d.words) > 0)
      AND NOT EXISTS (SELECT FROM w v JOIN settled later ON later.world = v.world AND later.seq <= v.until
                      WHERE (later.kind, later.number) = (d.kind, d.number) AND later.seq > d.seq)
)
SELECT kind, number, (SELECT count(*) FROM found) AS total FROM found ORDER BY latest DESC, kind, number LIMIT %(most)s;

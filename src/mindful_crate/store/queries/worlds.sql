-- name: put_world
INSERT INTO world (id, kind, name, site, opening, rulebook, draft, settings, parent, parent_seq, seq, rehearsal, made_by)
VALUES (%(id)s, %(kind)s, %(name)s, %(site)s, %(opening)s, %(rulebook)s, %(draft)s, %(settings)s, %(parent)s,
        %(parent_seq)s, %(parent_seq)s, %(rehearsal)s, %(made_by)s);

-- name: world
SELECT id, kind, name, site, opening, rulebook, draft, settings, parent, parent_seq, seq, rehearsal, made_by, made_at
FROM world WHERE id = %(id)s;

-- name: worlds
SELECT id, kind, name, site, opening, rulebook, draft, settings, parent, parent_seq, seq, rehearsal, made_by, made_at
FROM world WHERE site = ANY(%(sites)s) ORDER BY kind, made_at DESC, id LIMIT 100;

-- name: live_world
SELECT id, kind, name, site, opening, rulebook, draft, settings, parent, parent_seq, seq, rehearsal, made_by, made_at
FROM world WHERE site = %(site)s AND kind = 'live' ORDER BY made_at DESC LIMIT 1;

-- name: live_worlds
SELECT id, kind, name, site, opening, rulebook, draft, settings, parent, parent_seq, seq, rehearsal, made_by, made_at
FROM world WHERE kind = 'live' ORDER BY made_at, id;

-- name: entries_told
-- What a real host told, the latest first.
SELECT body FROM entry WHERE world = %(world)s AND command_id LIKE 'host-in:%%' ORDER BY seq DESC LIMIT %(most)s;

-- name: entries_at
SELECT body FROM entry WHERE world = %(world)s AND seq = ANY(%(seqs)s) ORDER BY seq;

-- name: alone
-- Is this the one process that does what only one should do? Until the transaction ends.
SELECT pg_try_advisory_xact_lock(hashtext(%(what)s));

-- name: in_turn
-- Others who do the same wait until the transaction ends.
SELECT pg_advisory_xact_lock(hashtext(%(what)s));

-- name: lock_world
-- Decide and append go one after the other in a world.
SELECT id, kind, name, site, opening, rulebook, draft, settings, parent, parent_seq, seq, rehearsal, made_by, made_at
FROM world WHERE id = %(id)s FOR UPDATE;

-- name: entries
SELECT body FROM entry WHERE world = %(world)s AND seq > %(after)s AND seq <= %(until)s ORDER BY seq;

-- name: entry_by_command
SELECT body FROM entry WHERE world = %(world)s AND command_id = %(command_id)s;

-- name: append
-- All entries of a command in one statement: its own, and what the host answered around it. The world moves on
-- with them, and listeners hear of it when the transaction commits.
WITH added AS (
    INSERT INTO entry (world, seq, command_id, body)
    SELECT %(world)s, * FROM unnest(%(seqs)s::bigint[], %(ids)s::text[], %(bodies)s::bytea[])
), moved AS (
    UPDATE world SET seq = %(seq)s WHERE id = %(world)s
)
SELECT pg_notify('crate', %(told)s);

-- name: notify
SELECT pg_notify('crate', %(text)s);

-- name: put_snapshot
INSERT INTO snapshot (world, seq, shape, body) VALUES (%(world)s, %(seq)s, %(shape)s, %(body)s) ON CONFLICT DO NOTHING;

-- name: snapshot
SELECT seq, body FROM snapshot WHERE world = %(world)s AND shape = %(shape)s AND seq <= %(until)s
ORDER BY seq DESC LIMIT 1;

-- name: put_pin
INSERT INTO pin (world, seq, expectation) VALUES (%(world)s, %(seq)s, %(expectation)s) RETURNING id;

-- name: pins
SELECT id, seq, expectation FROM pin WHERE world = %(world)s ORDER BY seq NULLS LAST, id;

-- name: drop_pin
DELETE FROM pin WHERE world = %(world)s AND id = %(id)s;

-- name: copy_pins
INSERT INTO pin (world, seq, expectation)
SELECT %(child)s, seq, expectation FROM pin WHERE world = %(parent)s AND (seq IS NULL OR seq <= %(seq)s) ORDER BY id;

-- name: put_rehearsal
INSERT INTO rehearsal (id, name, site, script, made_by) VALUES (%(id)s, %(name)s, %(site)s, %(script)s, %(made_by)s)
ON CONFLICT (id) DO UPDATE SET name = excluded.name, script = excluded.script, version = rehearsal.version + 1;

-- name: rehearsals
SELECT r.id, r.name, r.site, r.version, r.script, x.passed, x.version AS ran_version, x.body, x.ran_at, x.ran_by
FROM rehearsal r
LEFT JOIN LATERAL (SELECT * FROM rehearsal_result WHERE rehearsal = r.id ORDER BY id DESC LIMIT 1) x ON true
WHERE r.site = ANY(%(sites)s) ORDER BY r.id;

-- name: rehearsal
SELECT r.id, r.name, r.site, r.version, r.script, x.passed, x.version AS ran_version, x.body, x.ran_at, x.ran_by
FROM rehearsal r
LEFT JOIN LATERAL (SELECT * FROM rehearsal_result WHERE rehearsal = r.id ORDER BY id DESC LIMIT 1) x ON true
WHERE r.id = %(id)s;

-- name: put_result
INSERT INTO rehearsal_result (rehearsal, version, passed, body, ran_by)
VALUES (%(rehearsal)s, %(version)s, %(passed)s, %(body)s, %(ran_by)s);

-- name: drop_rehearsal
DELETE FROM rehearsal WHERE id = %(id)s;

-- name: worlds_to_examine
-- The latest worlds, for a sweep over their invariants.
SELECT id, kind, name, site, opening, rulebook, draft, settings, parent, parent_seq, seq, rehearsal, made_by, made_at
FROM world ORDER BY kind, made_at DESC, id LIMIT %(most)s;

-- name: migrations_done
SELECT version FROM schema_migrations;

-- name: migrations_kept
SELECT to_regclass('schema_migrations');

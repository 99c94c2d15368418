-- name: put_world
INSERT INTO world (id, kind, name, site, opening, rulebook, draft, settings, parent, parent_seq, seq, settled_to,
                   rehearsal, rehearsal_version, made_by, beside)
VALUES (%(id)s, %(kind)s, %(name)s, %(site)s, %(opening)s, %(rulebook)s, %(draft)s, %(settings)s, %(parent)s,
        %(parent_seq)s, %(parent_seq)s, %(settled_to)s, %(rehearsal)s, %(rehearsal_version)s, %(made_by)s, %(beside)s);

-- name: put_beside
UPDATE world SET beside = %(beside)s WHERE id = %(id)s;

-- name: beside
-- Worlds of a group, by site.
SELECT id, kind, name, site, opening, rulebook, draft, settings, parent, parent_seq, seq, settled_to, rehearsal,
       rehearsal_version, made_by, made_at, beside
FROM world WHERE beside = %(beside)s ORDER BY site, made_at, id;

-- name: world
SELECT id, kind, name, site, opening, rulebook, draft, settings, parent, parent_seq, seq, settled_to, rehearsal,
       rehearsal_version, made_by, made_at, beside
FROM world WHERE id = %(id)s;

-- name: worlds
SELECT id, kind, name, site, opening, rulebook, draft, settings, parent, parent_seq, seq, settled_to, rehearsal,
       rehearsal_version, made_by, made_at, beside
FROM world
WHERE site = ANY(%(sites)s) AND NOT cleared
    AND (kind = 'live' OR %(all)s OR EXISTS (SELECT FROM guest WHERE guest.world = world.id AND guest.person = %(person)s))
ORDER BY kind, made_at DESC, id LIMIT 100;

-- name: ask_in
INSERT INTO guest (world, person, asked_by) VALUES (%(world)s, %(person)s, %(by)s) ON CONFLICT DO NOTHING;

-- name: ask_out
DELETE FROM guest WHERE world = %(world)s AND person = %(person)s;

-- name: guests
SELECT array_agg(person ORDER BY asked_at, person) FROM guest WHERE world = %(world)s;

-- name: is_guest
SELECT true FROM guest WHERE world = %(world)s AND person = %(person)s;

-- name: live_world
SELECT id, kind, name, site, opening, rulebook, draft, settings, parent, parent_seq, seq, settled_to, rehearsal,
       rehearsal_version, made_by, made_at, beside
FROM world WHERE site = %(site)s AND kind = 'live' ORDER BY made_at DESC LIMIT 1;

-- name: live_worlds
SELECT id, kind, name, site, opening, rulebook, draft, settings, parent, parent_seq, seq, settled_to, rehearsal,
       rehearsal_version, made_by, made_at, beside
FROM world WHERE kind = 'live' ORDER BY made_at, id;

-- name: entries_told
-- What a real host told, the latest first.
SELECT body FROM entry WHERE world = %(world)s AND command_id LIKE 'host-in:%%' ORDER BY seq DESC LIMIT %(most)s;

-- name: entries_latest
-- The latest entries of a world, the last first.
SELECT body FROM entry WHERE world = %(world)s ORDER BY seq DESC LIMIT %(most)s;

-- name: entries_at
SELECT body FROM entry WHERE world = %(world)s AND seq = ANY(%(seqs)s) ORDER BY seq;

-- name: alone
-- Is this the one process that does what only one should do? Until the transaction ends.
SELECT pg_try_advisory_xact_lock(hashtext(%(what)s));

-- name: in_turn
-- Others who do the same wait until the transaction ends.
SELECT pg_advisory_xact_lock(hashtext(%(what)s));

-- name: lock_world
-- Decide and append go one after the other in a world. All else of it is known, or is looked up where it is shown.
SELECT seq, settled_to, beside FROM world WHERE id = %(id)s FOR UPDATE;

-- name: entries
SELECT body FROM entry WHERE world = %(world)s AND seq > %(after)s AND seq <= %(until)s ORDER BY seq;

-- name: world_since
-- How far a log is, and what came after an entry: a row for each, or one without.
SELECT w.seq, w.settled_to, w.beside, e.body
FROM world w LEFT JOIN entry e ON e.world = w.id AND e.seq > %(after)s AND e.seq <= w.seq
WHERE w.id = %(world)s ORDER BY e.seq;

-- name: entry_by_command
SELECT body FROM entry WHERE world = %(world)s AND command_id = %(command_id)s;

-- name: append
-- All entries of a command in one statement: its own, and what the host answered around it, with the documents that were
-- settled by them. The world moves on with them.
WITH added AS (
    INSERT INTO entry (world, seq, command_id, body)
    SELECT %(world)s, * FROM unnest(%(seqs)s::bigint[], %(ids)s::text[], %(bodies)s::bytea[])
), kept AS (
    INSERT INTO settled (world, kind, number, seq, latest, word, words, body)
    SELECT %(world)s, * FROM unnest(%(kinds)s::text[], %(numbers)s::text[], %(settled)s::bigint[], %(latest)s::bigint[],
                                    %(states)s::text[], %(words)s::text[], %(kept)s::bytea[])
    ON CONFLICT DO NOTHING
), following AS (
    INSERT INTO settled_after (world, before, kind, number, seq)
    SELECT %(world)s, * FROM unnest(%(befores)s::text[], %(followers)s::text[], %(their_numbers)s::text[],
                                    %(since)s::bigint[])
    ON CONFLICT DO NOTHING
)
UPDATE world SET seq = %(seq)s, settled_to = %(settled_to)s WHERE id = %(world)s;

-- name: append_one
-- The same for one entry that settled nothing, as most are.
WITH added AS (
    INSERT INTO entry (world, seq, command_id, body) VALUES (%(world)s, %(seq)s, %(id)s, %(body)s)
)
UPDATE world SET seq = %(seq)s, settled_to = %(seq)s WHERE id = %(world)s;

-- name: append_unless_moved
-- One entry that settled nothing, if the log is still the one it was decided on, and whoever sent it as they were looked up;
-- else nothing is done, and no row comes back.
-- Whoever appends meanwhile is waited for, and what is compared is what they left.
WITH moved AS (
    UPDATE world SET seq = %(seq)s, settled_to = %(seq)s
    WHERE id = %(world)s AND seq = %(seq)s - 1 AND settled_to = seq AND beside IS NULL
        AND (%(session)s::text IS NULL OR EXISTS (
            SELECT FROM session s JOIN person p ON p.id = s.person
            WHERE s.id = %(session)s AND s.xmin || ' ' || p.xmin = %(stands)s))
    RETURNING id
)
INSERT INTO entry (world, seq, command_id, body) SELECT id, %(seq)s, %(id)s, %(body)s FROM moved RETURNING true;

-- name: notify
SELECT pg_notify('crate', %(text)s);

-- name: notify_all
SELECT pg_notify('crate', told) FROM unnest(%(texts)s::text[]) AS told;

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
-- A new rehearsal, or the next version of one; its versions hold it too.
WITH put AS (
    INSERT INTO rehearsal (id, name, site, script, made_by) VALUES (%(id)s, %(name)s, %(site)s, %(script)s, %(made_by)s)
    ON CONFLICT (id) DO UPDATE SET name = excluded.name, script = excluded.script, version = rehearsal.version + 1
    RETURNING id, version, name, script
)
INSERT INTO rehearsal_version (rehearsal, version, name, script, steps, pins, says, made_by)
SELECT id, version, name, script, %(steps)s, %(pins)s, %(says)s, %(made_by)s FROM put;

-- name: rehearsals
SELECT id, name, site, version, script FROM rehearsal WHERE site = ANY(%(sites)s) ORDER BY id;

-- name: rehearsal
SELECT id, name, site, version, script FROM rehearsal WHERE id = %(id)s;

-- name: rehearsal_named
SELECT id, name, site, version, script FROM rehearsal WHERE site = %(site)s AND lower(name) = lower(%(name)s);

-- name: rehearsal_versions
SELECT version, name, steps, pins, says, made_by, made_at FROM rehearsal_version WHERE rehearsal = %(rehearsal)s
ORDER BY version DESC;

-- name: script_at
SELECT script FROM rehearsal_version WHERE rehearsal = %(rehearsal)s AND version = %(version)s;

-- name: put_result
INSERT INTO rehearsal_result (rehearsal, version, passed, checked, first_difference, body, ran_by, rulebook, opening,
                              engine, draft, revision)
VALUES (%(rehearsal)s, %(version)s, %(passed)s, %(checked)s, %(first_difference)s, %(body)s, %(ran_by)s, %(rulebook)s,
        %(opening)s, %(engine)s, %(draft)s, %(revision)s)
RETURNING id;

-- name: latest_results
-- Of each rehearsal the latest result on these very rules; where there is none, the latest of that draft or revision.
SELECT DISTINCT ON (rehearsal) id, rehearsal, version, passed, checked, first_difference, ran_by, ran_at, rulebook,
       opening, engine, draft, revision
FROM rehearsal_result
WHERE rehearsal = ANY(%(rehearsals)s)
  AND (rulebook = %(rulebook)s OR draft = %(draft)s OR revision = %(revision)s)
ORDER BY rehearsal, rulebook = %(rulebook)s DESC, id DESC;

-- name: results_of
SELECT id, rehearsal, version, passed, checked, first_difference, ran_by, ran_at, rulebook, opening, engine, draft, revision
FROM rehearsal_result WHERE rehearsal = %(rehearsal)s ORDER BY id DESC LIMIT %(most)s;

-- name: result
SELECT id, rehearsal, version, passed, checked, first_difference, ran_by, ran_at, rulebook, opening, engine, draft, revision
FROM rehearsal_result WHERE rehearsal = %(rehearsal)s AND id = %(id)s;

-- name: result_body
SELECT body FROM rehearsal_result WHERE id = %(id)s;

-- name: drop_rehearsal
-- With its versions and results. Runs that were opened from it are runs of their own from now on.
WITH freed AS (UPDATE world SET rehearsal = NULL, rehearsal_version = NULL WHERE rehearsal = %(id)s)
DELETE FROM rehearsal WHERE id = %(id)s;

-- name: name_world
UPDATE world SET name = %(name)s WHERE id = %(id)s;

-- name: clear_world
-- A run nobody needs. Its entries stay, since others may go on from them.
UPDATE world SET cleared = true WHERE id = %(id)s;

-- name: worlds_to_examine
-- The latest worlds, for a sweep over their invariants.
SELECT id, kind, name, site, opening, rulebook, draft, settings, parent, parent_seq, seq, settled_to, rehearsal,
       rehearsal_version, made_by, made_at, beside
FROM world ORDER BY kind, made_at DESC, id LIMIT %(most)s;

-- name: migrations_done
SELECT version FROM schema_migrations;

-- name: migrations_kept
SELECT to_regclass('schema_migrations');

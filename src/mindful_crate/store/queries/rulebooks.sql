-- name: put_opening
INSERT INTO opening (hash, name) VALUES (%(hash)s, %(name)s) ON CONFLICT DO NOTHING RETURNING hash;

-- name: put_opening_part
INSERT INTO opening_part (hash, no, content) VALUES (%(hash)s, %(no)s, %(content)s);

-- name: opening_parts
SELECT content FROM opening_part WHERE hash = %(hash)s ORDER BY no;

-- name: put_rulebook
INSERT INTO rulebook (hash, content) VALUES (%(hash)s, %(content)s) ON CONFLICT DO NOTHING;

-- name: rulebook
SELECT content FROM rulebook WHERE hash = %(hash)s;

-- name: put_draft
INSERT INTO draft (id, name, parent, site, opening) VALUES (%(id)s, %(name)s, %(parent)s, %(site)s, %(opening)s);

-- name: drafts
-- Drafts of the sites a person sees, by id.
SELECT d.id, d.name, d.parent, d.site, d.opening, d.version, d.cursor, s.rulebook, s.says,
       (SELECT max(step) FROM draft_step x WHERE x.draft = d.id) AS last_step
FROM draft d JOIN draft_step s ON s.draft = d.id AND s.step = d.cursor
WHERE d.site = ANY(%(sites)s) AND NOT d.closed ORDER BY d.id;

-- name: draft
SELECT d.id, d.name, d.parent, d.site, d.opening, d.version, d.cursor, s.rulebook, s.says,
       (SELECT max(step) FROM draft_step x WHERE x.draft = d.id) AS last_step
FROM draft d JOIN draft_step s ON s.draft = d.id AND s.step = d.cursor
WHERE d.id = %(id)s;

-- name: draft_sites
SELECT DISTINCT site FROM draft WHERE NOT closed ORDER BY site;

-- name: next_draft
-- The number of the next draft; two at once take turns.
SELECT coalesce(max(substring(id FROM '^d-([0-9]+)$')::bigint), 0) + 1 FROM draft;

-- name: name_draft
UPDATE draft SET name = %(name)s WHERE id = %(id)s;

-- name: close_draft
UPDATE draft SET closed = true WHERE id = %(id)s;

-- name: lock_draft
SELECT version, cursor FROM draft WHERE id = %(id)s FOR UPDATE;

-- name: cut_draft
-- A new edit ends what could be redone.
DELETE FROM draft_step WHERE draft = %(id)s AND step > %(cursor)s;

-- name: put_draft_step
INSERT INTO draft_step (draft, step, rulebook, says, made_by)
VALUES (%(draft)s, %(step)s, %(rulebook)s, %(says)s, %(made_by)s);

-- name: move_draft
UPDATE draft SET cursor = %(cursor)s, version = version + 1 WHERE id = %(id)s;

-- name: draft_steps
-- The latest states of a draft, newest first; to tell what changed meanwhile.
SELECT s.step, s.says, s.made_by, s.made_at FROM draft_step s JOIN draft d ON d.id = s.draft
WHERE s.draft = %(id)s AND s.step <= d.cursor ORDER BY s.step DESC LIMIT %(most)s;

-- name: retire
UPDATE revision SET state = 'retired' WHERE site = %(site)s AND state = 'in_force';

-- name: put_revision
INSERT INTO revision (no, name, site, rulebook, state, made_by)
SELECT coalesce(max(no), 0) + 1, %(name)s, %(site)s, %(rulebook)s, 'in_force', %(made_by)s FROM revision
RETURNING no;

-- name: in_force
SELECT no, name, site, rulebook, state, made_by, made_at FROM revision WHERE site = %(site)s AND state = 'in_force';

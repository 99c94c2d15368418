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
INSERT INTO draft (id, name, parent, site, opening, general, whole)
VALUES (%(id)s, %(name)s, %(parent)s, %(site)s, %(opening)s, %(general)s, %(whole)s);

-- name: drafts
-- Drafts of the sites a person sees, by id.
SELECT id, name, parent, site, opening, version, cursor, rulebook, own, general, says, last_step
FROM draft_now WHERE site = ANY(%(sites)s) AND NOT closed ORDER BY id;

-- name: draft
SELECT id, name, parent, site, opening, version, cursor, rulebook, own, general, says, last_step
FROM draft_now WHERE id = %(id)s;

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
INSERT INTO draft_step (draft, step, rulebook, says, made_by, general)
VALUES (%(draft)s, %(step)s, %(rulebook)s, %(says)s, %(made_by)s, %(general)s);

-- name: move_draft
-- Another step of a draft holds, or it stands on another version of the layer for all sites.
UPDATE draft SET cursor = %(cursor)s, general = %(general)s, whole = %(whole)s, version = version + 1 WHERE id = %(id)s;

-- name: step_of_draft
-- One state of a draft: what is the site's own, and the version of the layer for all sites that it made.
SELECT rulebook, general, says FROM draft_step WHERE draft = %(id)s AND step = %(step)s;

-- name: general
-- The layer for all sites as it stands.
SELECT no, rulebook, says, made_by, made_at FROM general ORDER BY no DESC LIMIT 1;

-- name: general_no
SELECT rulebook FROM general WHERE no = %(no)s;

-- name: put_general
INSERT INTO general (no, rulebook, says, made_by) VALUES (%(no)s, %(rulebook)s, %(says)s, %(made_by)s);

-- name: draft_steps
-- The latest states of a draft, newest first; to tell what changed meanwhile.
SELECT s.step, s.says, s.made_by, s.made_at FROM draft_step s JOIN draft d ON d.id = s.draft
WHERE s.draft = %(id)s AND s.step <= d.cursor ORDER BY s.step DESC LIMIT %(most)s;

-- name: retire
UPDATE revision SET state = 'retired' WHERE site = %(site)s AND state = 'in_force';

-- name: put_revision
INSERT INTO revision (no, name, site, rulebook, general, state, made_by)
SELECT coalesce(max(no), 0) + 1, %(name)s, %(site)s, %(rulebook)s, %(general)s, 'in_force', %(made_by)s FROM revision
RETURNING no;

-- name: revisions
-- What was put in force at a site, the latest first.
SELECT no, name, site, rulebook, general, state, made_by, made_at FROM revision WHERE site = %(site)s ORDER BY no DESC LIMIT %(most)s;

-- name: in_force
SELECT no, name, site, rulebook, general, state, made_by, made_at FROM revision WHERE site = %(site)s AND state = 'in_force';

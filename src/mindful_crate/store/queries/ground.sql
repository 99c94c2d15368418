-- name: ground
-- The ground as it stands.
SELECT no, opening, says, made_by, made_at FROM ground ORDER BY no DESC LIMIT 1;

-- name: put_ground
-- The next state of the ground; two at once cannot both be the next.
INSERT INTO ground (no, opening, says, made_by) VALUES (%(no)s, %(opening)s, %(says)s, %(made_by)s);

-- name: grounds_since
-- What happened to the ground after a state, newest first.
SELECT no, opening, says, made_by, made_at FROM ground WHERE no > %(no)s ORDER BY no DESC LIMIT 10;

-- name: all_drafts
SELECT id, name, parent, site, opening, version, cursor, rulebook, own, general, says, last_step
FROM draft_now WHERE NOT closed ORDER BY id;

-- name: put_draft_on
-- A draft stands on another ground.
UPDATE draft SET opening = %(opening)s, version = version + 1 WHERE id = %(id)s;

-- name: give_site
-- Somebody sees one more site, and works in one more crew.
UPDATE person SET sites = (SELECT array_agg(DISTINCT s ORDER BY s) FROM unnest(sites || %(site)s::text) s),
    crews = (SELECT coalesce(array_agg(DISTINCT c ORDER BY c), '{}') FROM unnest(crews || %(crew)s::text) c WHERE c <> '')
WHERE id = %(id)s;

-- name: person_by_login
SELECT id, name, role, sites, crews, login, password_hash, active, badge_hash IS NOT NULL AS has_badge, erased_at,
       default_site, default_flow, given
FROM person WHERE login = %(login)s AND active;

-- name: person_by_badge
SELECT id, name, role, sites, crews, login, password_hash, active, badge_hash IS NOT NULL AS has_badge, erased_at,
       default_site, default_flow, given
FROM person WHERE badge_hash = %(badge)s AND active;

-- name: person
SELECT id, name, role, sites, crews, login, password_hash, active, badge_hash IS NOT NULL AS has_badge, erased_at,
       default_site, default_flow, given
FROM person WHERE id = %(id)s;

-- name: people
SELECT id, name, role, sites, crews, login, password_hash, active, badge_hash IS NOT NULL AS has_badge, erased_at,
       default_site, default_flow, given
FROM person ORDER BY NOT active, id;

-- name: put_person
INSERT INTO person (id, name, role, sites, crews, login, password_hash)
VALUES (%(id)s, %(name)s, %(role)s, %(sites)s, %(crews)s, %(login)s, %(password_hash)s);

-- name: one_at_a_time
LOCK TABLE person IN EXCLUSIVE MODE;

-- name: change_person
UPDATE person SET name = %(name)s, role = %(role)s, sites = %(sites)s, crews = %(crews)s, login = %(login)s,
    active = %(active)s, default_site = %(default_site)s, default_flow = %(default_flow)s, given = %(given)s
WHERE id = %(id)s AND erased_at IS NULL;

-- name: put_where
UPDATE person SET default_site = %(default_site)s, default_flow = %(default_flow)s WHERE id = %(id)s;

-- name: put_password
UPDATE person SET password_hash = %(password_hash)s WHERE id = %(id)s;

-- name: put_badge
UPDATE person SET badge_hash = %(badge)s WHERE id = %(id)s;

-- name: erase_person
-- The name goes; the id stays in the logs and means nobody any more.
UPDATE person SET name = 'somebody', login = 'erased ' || id, password_hash = '', badge_hash = NULL, crews = '{}',
    given = '{}', default_site = '', default_flow = '', active = false, erased_at = now()
WHERE id = %(id)s;

-- name: begin_session
INSERT INTO session (id, person, by_badge) VALUES (%(id)s, %(person)s, %(by_badge)s);

-- name: session
-- Who a session is of, as long as it has not ended: by hours unused, or by days in all.
SELECT p.id, p.name, p.role, p.sites, p.crews, p.login, p.password_hash, p.active,
       p.badge_hash IS NOT NULL AS has_badge, p.erased_at, p.default_site, p.default_flow, p.given, s.by_badge,
       s.seen_at < now() - interval '1 minute' AS stale, s.xmin || ' ' || p.xmin AS stands
FROM session s JOIN person p ON p.id = s.person
WHERE s.id = %(id)s AND p.active AND s.seen_at > now() - make_interval(hours => %(idle_hours)s)
  AND s.made_at > now() - make_interval(days => %(days)s);

-- name: session_stands
-- Are a session and its person as they were looked up? Each row says by which transaction it was written last.
SELECT true FROM session s JOIN person p ON p.id = s.person
WHERE s.id = %(session)s AND s.xmin || ' ' || p.xmin = %(stands)s;

-- name: seen_session
UPDATE session SET seen_at = now() WHERE id = %(id)s;

-- name: end_session
DELETE FROM session WHERE id = %(id)s;

-- name: end_sessions
DELETE FROM session WHERE person = %(person)s;

-- name: sessions
SELECT person, count(*) AS open, max(seen_at) AS seen_at FROM session
WHERE seen_at > now() - make_interval(hours => %(idle_hours)s) GROUP BY person;

-- name: clear_sessions
DELETE FROM session WHERE seen_at < now() - make_interval(days => %(days)s);

-- name: note_try
INSERT INTO sign_in_try (what) SELECT unnest(%(what)s::text[]);

-- name: tries
SELECT count(*) FROM sign_in_try WHERE what = %(what)s AND at > now() - interval '5 minutes';

-- name: clear_tries
DELETE FROM sign_in_try WHERE at < now() - interval '1 hour';

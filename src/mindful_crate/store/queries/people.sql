-- name: person_by_login
SELECT id, name, role, sites, crews, login, password_hash FROM person WHERE login = %(login)s;

-- name: person
SELECT id, name, role, sites, crews, login, password_hash FROM person WHERE id = %(id)s;

-- name: people
SELECT id, name, role, sites, crews, login, password_hash FROM person ORDER BY id;

-- name: put_person
INSERT INTO person (id, name, role, sites, crews, login, password_hash)
VALUES (%(id)s, %(name)s, %(role)s, %(sites)s, %(crews)s, %(login)s, %(password_hash)s)
ON CONFLICT (id) DO UPDATE SET name = excluded.name, role = excluded.role, sites = excluded.sites,
    crews = excluded.crews, login = excluded.login, password_hash = excluded.password_hash;

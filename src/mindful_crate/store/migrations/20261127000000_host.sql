-- migrate:up
-- A host signs in like a person, with a key of its own, and does nothing but tell and answer messages.
ALTER TABLE person DROP CONSTRAINT person_role_check;
ALTER TABLE person ADD CONSTRAINT person_role_check CHECK (role IN ('analyst', 'supervisor', 'floor', 'viewer', 'host'));

-- migrate:down
DELETE FROM person WHERE role = 'host';
ALTER TABLE person DROP CONSTRAINT person_role_check;
ALTER TABLE person ADD CONSTRAINT person_role_check CHECK (role IN ('analyst', 'supervisor', 'floor', 'viewer'));

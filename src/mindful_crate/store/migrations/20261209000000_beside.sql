-- migrate:up

-- Rehearsals at several sites, the same day: those of one group hear from one another what was sent.
ALTER TABLE world ADD COLUMN beside text;
CREATE INDEX world_beside ON world (beside) WHERE beside IS NOT NULL;

-- migrate:down

ALTER TABLE world DROP COLUMN beside;

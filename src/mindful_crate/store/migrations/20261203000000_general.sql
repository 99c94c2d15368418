-- migrate:up

-- Versions of the layer of the rulebook that all sites share; what is put back is a version too. No version: nothing in it.
CREATE TABLE general (
    no       bigint PRIMARY KEY,
    rulebook text NOT NULL REFERENCES rulebook,
    says     text NOT NULL,
    made_by  text NOT NULL REFERENCES person,
    made_at  timestamptz NOT NULL DEFAULT now()
);

-- A draft's steps say what is the site's own; it stands on a version of the layer for all sites, and both together are what it
-- says as a whole.
ALTER TABLE draft ADD COLUMN general bigint NOT NULL DEFAULT 0;
ALTER TABLE draft ADD COLUMN whole text REFERENCES rulebook;
UPDATE draft d SET whole = s.rulebook FROM draft_step s WHERE s.draft = d.id AND s.step = d.cursor;

-- The version of the layer for all sites that a step made, if it made one.
ALTER TABLE draft_step ADD COLUMN general bigint REFERENCES general;

-- The version that what is in force was put together with.
ALTER TABLE revision ADD COLUMN general bigint NOT NULL DEFAULT 0;

-- Drafts as they stand.
CREATE VIEW draft_now AS
SELECT d.id, d.name, d.parent, d.site, d.opening, d.version, d.cursor, d.closed, coalesce(d.whole, s.rulebook) AS rulebook,
       s.rulebook AS own, d.general, s.says, (SELECT max(step) FROM draft_step x WHERE x.draft = d.id) AS last_step
FROM draft d JOIN draft_step s ON s.draft = d.id AND s.step = d.cursor;

-- migrate:down

DROP VIEW draft_now;
ALTER TABLE revision DROP COLUMN general;
ALTER TABLE draft_step DROP COLUMN general;
ALTER TABLE draft DROP COLUMN whole;
ALTER TABLE draft DROP COLUMN general;
DROP TABLE general;

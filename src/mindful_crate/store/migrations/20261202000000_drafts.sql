-- migrate:up

-- A draft that is no longer worked on is not listed; worlds and results that name it stay what they are.
ALTER TABLE draft ADD COLUMN closed boolean NOT NULL DEFAULT false;

-- migrate:down

ALTER TABLE draft DROP COLUMN closed;

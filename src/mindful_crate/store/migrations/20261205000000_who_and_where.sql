-- migrate:up

-- Where a person's handset begins, and what the person may do at a site besides what the role brings ("HQ book_by_hand").
ALTER TABLE person
    ADD COLUMN default_site text NOT NULL DEFAULT '',
    ADD COLUMN default_flow text NOT NULL DEFAULT '',
    ADD COLUMN given        text[] NOT NULL DEFAULT '{}';

ALTER TABLE person DROP CONSTRAINT person_role_check,
    ADD CONSTRAINT person_role_check CHECK (role IN ('analyst', 'supervisor', 'buyer', 'floor', 'viewer', 'host'));

-- What a host told of orders that name no site; empty until one is found for them.
CREATE TABLE waiting_order (
    message  text PRIMARY KEY,
    topic    text NOT NULL,
    body     bytea NOT NULL,
    told_by  text NOT NULL,
    told_at  timestamptz NOT NULL DEFAULT now(),
    site     text NOT NULL DEFAULT '',
    tries    integer NOT NULL DEFAULT 0
);

-- migrate:down

DROP TABLE waiting_order;
UPDATE person SET role = 'viewer' WHERE role = 'buyer';
ALTER TABLE person DROP CONSTRAINT person_role_check,
    ADD CONSTRAINT person_role_check CHECK (role IN ('analyst', 'supervisor', 'floor', 'viewer', 'host'));
ALTER TABLE person DROP COLUMN default_site, DROP COLUMN default_flow, DROP COLUMN given;

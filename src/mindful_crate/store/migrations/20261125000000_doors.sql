-- migrate:up

-- People may be let go, and their names erased: the log holds ids and stays valid.
ALTER TABLE person ADD COLUMN active boolean NOT NULL DEFAULT true;
ALTER TABLE person ADD COLUMN badge_hash text;      -- SHA-256 of the badge's code under the server's secret
ALTER TABLE person ADD COLUMN erased_at timestamptz;
CREATE UNIQUE INDEX person_badge ON person (badge_hash) WHERE badge_hash IS NOT NULL;

-- Sessions are rows, so that they can be ended: by the person, by time, or by whoever looks after people.
CREATE TABLE session (
    id         text PRIMARY KEY,             -- SHA-256 of what the cookie holds
    person     text NOT NULL REFERENCES person ON DELETE CASCADE,
    by_badge   boolean NOT NULL,             -- a badge opens the handset only
    made_at    timestamptz NOT NULL DEFAULT now(),
    seen_at    timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX session_person ON session (person);

-- Failed tries to sign in, for the limit on them; kept for an hour.
CREATE TABLE sign_in_try (
    at   timestamptz NOT NULL DEFAULT now(),
    what text NOT NULL                       -- 'login NAME' or 'from ADDRESS'
);
CREATE INDEX sign_in_try_what ON sign_in_try (what, at);

-- migrate:down

DROP TABLE sign_in_try, session;
ALTER TABLE person DROP COLUMN active, DROP COLUMN badge_hash, DROP COLUMN erased_at;

-- migrate:up

-- An opening state may be larger than one value should be: it is kept in parts, which follow one another.
CREATE TABLE opening_part (
    hash    text NOT NULL REFERENCES opening ON DELETE CASCADE,
    no      int NOT NULL,
    content bytea NOT NULL,
    PRIMARY KEY (hash, no)
);
ALTER TABLE opening_part ALTER COLUMN content SET STORAGE EXTERNAL;
INSERT INTO opening_part (hash, no, content) SELECT hash, 0, content FROM opening;
ALTER TABLE opening DROP COLUMN content;

-- Files somebody brings in: looked through first, by a job when there is much of them, then taken or left.
CREATE TABLE import (
    id       text PRIMARY KEY,
    made_by  text NOT NULL REFERENCES person,
    made_at  timestamptz NOT NULL DEFAULT now(),
    names    text[] NOT NULL,                 -- of the files
    sees     text[] NOT NULL,                 -- the sites whose rows may be among them
    site     text NOT NULL,
    whole    boolean NOT NULL,
    state    text NOT NULL CHECK (state IN ('waiting', 'reading', 'read', 'failed', 'cancelled', 'taken')),
    says     text NOT NULL DEFAULT '',        -- why it failed
    rows     bigint NOT NULL DEFAULT 0,
    share    double precision NOT NULL DEFAULT 0,
    base     bigint NOT NULL DEFAULT 0,       -- the state of the ground it was read against
    opening  text REFERENCES opening,         -- what the good rows make
    outcome  bytea,                           -- what would change, and what is wrong
    reasons  bytea                            -- everything wrong, as a file
);

CREATE TABLE import_part (
    import  text NOT NULL REFERENCES import ON DELETE CASCADE,
    file    int NOT NULL,
    no      int NOT NULL,
    name    text NOT NULL,
    content bytea NOT NULL,
    PRIMARY KEY (import, file, no)
);
ALTER TABLE import_part ALTER COLUMN content SET STORAGE EXTERNAL;

-- migrate:down

DROP TABLE import_part, import;
ALTER TABLE opening ADD COLUMN content bytea NOT NULL DEFAULT '';
UPDATE opening o SET content = (SELECT string_agg(p.content, ''::bytea ORDER BY p.no) FROM opening_part p WHERE p.hash = o.hash);
DROP TABLE opening_part;

-- migrate:up

-- Documents of which nothing is due any more, handed out of the state of their world. One may come back and settle again;
-- its latest row counts. A world that goes on from a parent has those of the parent up to there.
CREATE TABLE settled (
    world  text NOT NULL REFERENCES world ON DELETE CASCADE,
    kind   text NOT NULL,
    number text NOT NULL,
    seq    bigint NOT NULL,              -- the entry since which it is settled
    latest bigint NOT NULL,              -- the entry that changed it last
    word   text NOT NULL,                -- the state it is in
    words  text NOT NULL,                -- what is told of it, in small letters, by which it is found
    body   bytea NOT NULL,
    PRIMARY KEY (world, kind, number, seq)
);
CREATE INDEX settled_latest ON settled (world, latest DESC);

-- What each of them follows from.
CREATE TABLE settled_after (
    world  text NOT NULL REFERENCES world ON DELETE CASCADE,
    before text NOT NULL,                -- as in 'order PO-1007'
    kind   text NOT NULL,
    number text NOT NULL,
    seq    bigint NOT NULL,
    PRIMARY KEY (world, before, kind, number, seq)
);

-- Up to which entry the settled documents of a world are kept here: those of older versions are when it goes on.
ALTER TABLE world ADD COLUMN settled_to bigint NOT NULL DEFAULT 0;

-- migrate:down

ALTER TABLE world DROP COLUMN settled_to;
DROP TABLE settled_after, settled;

-- migrate:up

-- Real printers and scales of a live floor, as the administrator names them.
CREATE TABLE device (
    world  text NOT NULL REFERENCES world ON DELETE CASCADE,
    kind   text NOT NULL CHECK (kind IN ('printer', 'scale')),
    code   text NOT NULL,
    says   text NOT NULL,                    -- where it is, for people
    since  timestamptz NOT NULL,             -- what was printed earlier is not given to it
    failed text NOT NULL DEFAULT '',         -- why it takes nothing now
    PRIMARY KEY (world, kind, code)
);

-- What was given to a real printer.
CREATE TABLE delivery (
    world   text NOT NULL REFERENCES world ON DELETE CASCADE,
    print   text NOT NULL,
    printer text NOT NULL,
    at      timestamptz NOT NULL,
    failed  text NOT NULL DEFAULT '',        -- why it was not, and never will be
    PRIMARY KEY (world, print)
);

-- migrate:down

DROP TABLE delivery, device;

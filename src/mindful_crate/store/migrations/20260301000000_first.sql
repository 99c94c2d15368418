-- migrate:up

CREATE TABLE person (
    id            text PRIMARY KEY,
    name          text NOT NULL,             -- the only place of names; the log holds ids
    role          text NOT NULL CHECK (role IN ('analyst', 'supervisor', 'floor', 'viewer')),
    sites         text[] NOT NULL,
    crews         text[] NOT NULL DEFAULT '{}',
    login         text NOT NULL UNIQUE,
    password_hash text NOT NULL
);

-- Opening states are immutable and found by the hash of their content.
CREATE TABLE opening (
    hash       text PRIMARY KEY,
    name       text NOT NULL,
    content    bytea NOT NULL,
    created_at timestamptz NOT NULL DEFAULT now()
);

-- So are rulebooks: drafts, revisions and worlds name one by its hash.
CREATE TABLE rulebook (
    hash       text PRIMARY KEY,
    content    bytea NOT NULL,
    created_at timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE draft (
    id      text PRIMARY KEY,
    name    text NOT NULL,
    parent  bigint,                          -- the revision it started from
    site    text NOT NULL,
    opening text NOT NULL REFERENCES opening,
    version bigint NOT NULL DEFAULT 1,       -- goes up with every change, undo and redo too
    cursor  bigint NOT NULL DEFAULT 1        -- the step that holds now
);

-- Every state a draft has had; undo and redo move the cursor.
CREATE TABLE draft_step (
    draft    text NOT NULL REFERENCES draft ON DELETE CASCADE,
    step     bigint NOT NULL,
    rulebook text NOT NULL REFERENCES rulebook,
    says     text NOT NULL,
    made_by  text NOT NULL REFERENCES person,
    made_at  timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (draft, step)
);

CREATE TABLE revision (
    no       bigint PRIMARY KEY,
    name     text NOT NULL,
    site     text NOT NULL,
    rulebook text NOT NULL REFERENCES rulebook,
    state    text NOT NULL CHECK (state IN ('in_force', 'retired')),
    made_by  text NOT NULL REFERENCES person,
    made_at  timestamptz NOT NULL DEFAULT now()
);
-- One revision a site is in force.
CREATE UNIQUE INDEX revision_in_force ON revision (site) WHERE state = 'in_force';

CREATE TABLE world (
    id         text PRIMARY KEY,
    kind       text NOT NULL CHECK (kind IN ('rehearsal', 'live')),
    name       text NOT NULL,
    site       text NOT NULL,
    opening    text NOT NULL REFERENCES opening,
    rulebook   text NOT NULL REFERENCES rulebook,
    draft      text,                         -- where the rulebook came from, if from a draft
    settings   bytea NOT NULL,
    parent     text REFERENCES world,        -- a child goes on from parent_seq of its parent's log
    parent_seq bigint NOT NULL DEFAULT 0,
    seq        bigint NOT NULL DEFAULT 0,
    rehearsal  text,                         -- the rehearsal it replays, if any
    made_by    text NOT NULL REFERENCES person,
    made_at    timestamptz NOT NULL DEFAULT now()
);

-- The log. One row a command, refused ones too; both keys are the proof that each has one outcome.
CREATE TABLE entry (
    world      text NOT NULL REFERENCES world ON DELETE CASCADE,
    seq        bigint NOT NULL,
    command_id text NOT NULL,
    body       bytea NOT NULL,
    PRIMARY KEY (world, seq),
    UNIQUE (world, command_id)
);

CREATE TABLE snapshot (
    world text NOT NULL REFERENCES world ON DELETE CASCADE,
    seq   bigint NOT NULL,
    shape bigint NOT NULL,                   -- version of the snapshot's shape; another one is not read
    body  bytea NOT NULL,
    PRIMARY KEY (world, seq)
);

-- Expectations pinned on a desk; seq is null for those that hold at the end.
CREATE TABLE pin (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    world       text NOT NULL REFERENCES world ON DELETE CASCADE,
    seq         bigint,
    expectation bytea NOT NULL
);

CREATE TABLE rehearsal (
    id       text PRIMARY KEY,
    name     text NOT NULL,
    site     text NOT NULL,
    version  bigint NOT NULL DEFAULT 1,
    script   bytea NOT NULL,
    made_by  text NOT NULL REFERENCES person,
    made_at  timestamptz NOT NULL DEFAULT now()
);

-- What came of running it, with what that result speaks for.
CREATE TABLE rehearsal_result (
    id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    rehearsal text NOT NULL REFERENCES rehearsal ON DELETE CASCADE,
    version   bigint NOT NULL,
    passed    boolean NOT NULL,
    body      bytea NOT NULL,
    ran_by    text NOT NULL REFERENCES person,
    ran_at    timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX rehearsal_result_latest ON rehearsal_result (rehearsal, id DESC);

-- migrate:down

DROP TABLE rehearsal_result, rehearsal, pin, snapshot, entry, world, revision, draft_step, draft, rulebook, opening, person;

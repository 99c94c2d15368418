-- migrate:up

-- Who was asked into a rehearsal: people of the floor see no other.
CREATE TABLE guest (
    world    text NOT NULL REFERENCES world ON DELETE CASCADE,
    person   text NOT NULL REFERENCES person ON DELETE CASCADE,
    asked_by text NOT NULL,
    asked_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (world, person)
);
CREATE INDEX guest_person ON guest (person);

-- migrate:down

DROP TABLE guest;

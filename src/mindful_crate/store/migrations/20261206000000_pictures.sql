-- migrate:up

-- Pictures of items, by the name an item has for its own; each was made anew when it was taken.
CREATE TABLE picture (
    name    text PRIMARY KEY,
    hash    text NOT NULL,
    width   integer NOT NULL,
    height  integer NOT NULL,
    content bytea NOT NULL,
    put_by  text NOT NULL,
    put_at  timestamptz NOT NULL DEFAULT now()
);

-- migrate:down

DROP TABLE picture;

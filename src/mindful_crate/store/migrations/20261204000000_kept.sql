-- migrate:up

-- What a person chose about how screens look to them: columns, filters, what stands on the first page.
CREATE TABLE kept (
    person text NOT NULL REFERENCES person,
    name   text NOT NULL,
    value  jsonb NOT NULL,
    PRIMARY KEY (person, name)
);

-- migrate:down

DROP TABLE kept;

-- migrate:up

-- Every version a rehearsal has had, so that there is a way back from each.
CREATE TABLE rehearsal_version (
    rehearsal text NOT NULL REFERENCES rehearsal ON DELETE CASCADE,
    version   bigint NOT NULL,
    name      text NOT NULL,
    script    bytea NOT NULL,
    says      text NOT NULL,                 -- what was done to it
    made_by   text NOT NULL REFERENCES person,
    made_at   timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (rehearsal, version)
);
INSERT INTO rehearsal_version (rehearsal, version, name, script, says, made_by, made_at)
SELECT id, version, name, script, 'as it was', made_by, made_at FROM rehearsal;

-- What a result speaks for: the rules by their content, and the draft or revision they were then; the opening state and
-- the engine. Of results from before, draft and revision are not known.
ALTER TABLE rehearsal_result
    ADD COLUMN rulebook text NOT NULL DEFAULT '',
    ADD COLUMN opening text NOT NULL DEFAULT '',
    ADD COLUMN engine text NOT NULL DEFAULT '',
    ADD COLUMN draft text,
    ADD COLUMN revision bigint;
UPDATE rehearsal_result SET
    rulebook = convert_from(body, 'UTF8')::json ->> 'rulebook',
    opening = convert_from(body, 'UTF8')::json ->> 'opening',
    engine = coalesce(convert_from(body, 'UTF8')::json ->> 'engine', '');
CREATE INDEX rehearsal_result_rulebook ON rehearsal_result (rehearsal, rulebook, id DESC);

-- A desk knows which version it was opened from; a run that is cleared away is no longer listed.
ALTER TABLE world
    ADD COLUMN rehearsal_version bigint,
    ADD COLUMN cleared boolean NOT NULL DEFAULT false;

-- migrate:down

ALTER TABLE world DROP COLUMN cleared, DROP COLUMN rehearsal_version;
DROP INDEX rehearsal_result_rulebook;
ALTER TABLE rehearsal_result
    DROP COLUMN revision, DROP COLUMN draft, DROP COLUMN engine, DROP COLUMN opening, DROP COLUMN rulebook;
DROP TABLE rehearsal_version;

-- migrate:up

-- What a list tells of versions and results, so that it need not read them whole.
ALTER TABLE rehearsal_version
    ADD COLUMN steps int NOT NULL DEFAULT 0,
    ADD COLUMN pins int NOT NULL DEFAULT 0;
UPDATE rehearsal_version v SET
    steps = json_array_length(s.script -> 'steps'),
    pins = coalesce(json_array_length(s.script -> 'at_end'), 0)
         + (SELECT coalesce(sum(json_array_length(step -> 'expect')), 0) FROM json_array_elements(s.script -> 'steps') step)
FROM (SELECT rehearsal, version, convert_from(script, 'UTF8')::json AS script FROM rehearsal_version) s
WHERE (v.rehearsal, v.version) = (s.rehearsal, s.version);

ALTER TABLE rehearsal_result
    ADD COLUMN checked int NOT NULL DEFAULT 0,        -- expectations that were looked at
    ADD COLUMN first_difference text;
UPDATE rehearsal_result r SET
    first_difference = b.body ->> 'first_difference',
    checked = coalesce(json_array_length(b.body -> 'at_end'), 0)
            + (SELECT coalesce(sum(json_array_length(step -> 'checks')), 0) FROM json_array_elements(b.body -> 'steps') step)
FROM (SELECT id, convert_from(body, 'UTF8')::json AS body FROM rehearsal_result) b
WHERE r.id = b.id;

-- migrate:down

ALTER TABLE rehearsal_result DROP COLUMN first_difference, DROP COLUMN checked;
ALTER TABLE rehearsal_version DROP COLUMN pins, DROP COLUMN steps;

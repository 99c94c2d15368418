-- migrate:up

-- The ground as it stands and as it stood: sites, catalogue, orders and opening stock. The highest number holds.
CREATE TABLE ground (
    no      bigint PRIMARY KEY,
    opening text NOT NULL REFERENCES opening,
    says    text NOT NULL,
    made_by text NOT NULL REFERENCES person,
    made_at timestamptz NOT NULL DEFAULT now()
);

-- Where there are drafts already, they stand on the ground there is.
INSERT INTO ground (no, opening, says, made_by)
SELECT 1, d.opening, 'As it was.', (SELECT s.made_by FROM draft_step s WHERE s.draft = d.id ORDER BY s.step LIMIT 1)
FROM draft d ORDER BY d.id LIMIT 1;

-- migrate:down

DROP TABLE ground;

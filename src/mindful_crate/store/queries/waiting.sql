-- name: put_waiting_order
INSERT INTO waiting_order (message, topic, body, told_by) VALUES (%(message)s, %(topic)s, %(body)s, %(told_by)s)
ON CONFLICT (message) DO NOTHING;

-- name: waiting_orders
SELECT message, topic, body, told_by, told_at, site, tries FROM waiting_order WHERE site = '' ORDER BY told_at, message;

-- name: waiting_order
SELECT message, topic, body, told_by, told_at, site, tries FROM waiting_order WHERE message = %(message)s FOR UPDATE;

-- name: place_waiting_order
UPDATE waiting_order SET site = %(site)s, tries = tries + 1 WHERE message = %(message)s;

-- name: unplace_waiting_order
UPDATE waiting_order SET site = '' WHERE message = %(message)s;

-- name: devices
SELECT kind, code, says, since, failed FROM device WHERE world = %(world)s ORDER BY kind, code;

-- name: put_device
-- Known again, it is what it was, wherever it is now.
INSERT INTO device (world, kind, code, says, since) VALUES (%(world)s, %(kind)s, %(code)s, %(says)s, %(since)s)
ON CONFLICT (world, kind, code) DO UPDATE SET says = excluded.says;

-- name: drop_devices
-- Those the administrator names no longer; ``named``: kind and code of those that are.
DELETE FROM device WHERE world = %(world)s AND NOT kind || ' ' || code = ANY(%(named)s);

-- name: device_failed
UPDATE device SET failed = %(failed)s WHERE world = %(world)s AND kind = %(kind)s AND code = %(code)s;

-- name: deliveries
SELECT print, printer, at, failed FROM delivery WHERE world = %(world)s AND print = ANY(%(prints)s);

-- name: put_delivery
INSERT INTO delivery (world, print, printer, at, failed)
VALUES (%(world)s, %(print)s, %(printer)s, %(at)s, %(failed)s) ON CONFLICT DO NOTHING;

-- migrate:up

-- Carriers are asked in earnest too.
ALTER TABLE device DROP CONSTRAINT device_kind_check;
ALTER TABLE device ADD CONSTRAINT device_kind_check CHECK (kind IN ('printer', 'scale', 'carrier'));

-- migrate:down

DELETE FROM device WHERE kind = 'carrier';
ALTER TABLE device DROP CONSTRAINT device_kind_check;
ALTER TABLE device ADD CONSTRAINT device_kind_check CHECK (kind IN ('printer', 'scale'));

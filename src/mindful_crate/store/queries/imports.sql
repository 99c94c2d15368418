-- name: put_import
INSERT INTO import (id, made_by, names, sees, site, whole, state)
VALUES (%(id)s, %(made_by)s, %(names)s, %(sees)s, %(site)s, %(whole)s, 'waiting');

-- name: put_import_part
INSERT INTO import_part (import, file, no, name, content) VALUES (%(id)s, %(file)s, %(no)s, %(name)s, %(content)s);

-- name: import
SELECT id, made_by, made_at, names, sees, site, whole, state, says, rows, share, base, opening, outcome
FROM import WHERE id = %(id)s;

-- name: lock_import
SELECT id, made_by, made_at, names, sees, site, whole, state, says, rows, share, base, opening, outcome
FROM import WHERE id = %(id)s FOR UPDATE;

-- name: open_imports
-- Those of a person that wait, are read, or have been read and neither taken nor left.
SELECT id, made_by, made_at, names, sees, site, whole, state, says, rows, share, base, opening, NULL AS outcome
FROM import WHERE made_by = %(by)s AND state IN ('waiting', 'reading', 'read') AND (opening IS NOT NULL OR state <> 'read')
ORDER BY made_at DESC LIMIT 5;

-- name: import_files
SELECT DISTINCT file, name FROM import_part WHERE import = %(id)s ORDER BY file;

-- name: import_parts
SELECT content FROM import_part WHERE import = %(id)s AND file = %(file)s AND no = %(no)s;

-- name: import_reasons
SELECT reasons FROM import WHERE id = %(id)s;

-- name: begin_import
-- Only one that waits, or whose reader ended without a word, is begun.
UPDATE import SET state = 'reading', base = %(base)s, rows = 0, share = 0
WHERE id = %(id)s AND state IN ('waiting', 'reading') RETURNING id;

-- name: move_import
-- How far it is; nothing comes back when it was cancelled meanwhile.
UPDATE import SET rows = %(rows)s, share = %(share)s WHERE id = %(id)s AND state = 'reading' RETURNING id;

-- name: end_import
UPDATE import SET state = %(state)s, says = %(says)s, rows = %(rows)s, share = 1, opening = %(opening)s,
    outcome = %(outcome)s, reasons = %(reasons)s
WHERE id = %(id)s AND state = 'reading' RETURNING id;

-- name: cancel_import
UPDATE import SET state = 'cancelled' WHERE id = %(id)s AND state IN ('waiting', 'reading', 'read') RETURNING id;

-- name: take_import
UPDATE import SET state = 'taken' WHERE id = %(id)s;

-- name: drop_import_parts
DELETE FROM import_part WHERE import = %(id)s;

-- name: old_imports
DELETE FROM import WHERE made_at < now() - interval '1 day' RETURNING opening;

-- name: drop_opening
-- One that came of an import nobody took, and that nothing else stands on.
DELETE FROM opening o WHERE o.hash = %(hash)s
    AND NOT EXISTS (SELECT FROM ground g WHERE g.opening = o.hash)
    AND NOT EXISTS (SELECT FROM draft d WHERE d.opening = o.hash)
    AND NOT EXISTS (SELECT FROM world w WHERE w.opening = o.hash)
    AND NOT EXISTS (SELECT FROM import i WHERE i.opening = o.hash);

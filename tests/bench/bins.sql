-- The yardstick in SQL: the same questions asked of indexed tables, one statement a target.
-- Rows are filled by binary COPY; ANALYZE follows. What a bin holds is kept summed, as an application would.

-- name: schema
CREATE TABLE bin (
    code          text COLLATE "C" PRIMARY KEY,
    zone          text NOT NULL,
    walk          bigint NOT NULL,
    level         bigint NOT NULL,
    from_door     bigint NOT NULL,          -- mm on foot from the door
    height        bigint NOT NULL,
    blocked       boolean NOT NULL,
    takes_plates  boolean NOT NULL,
    takes_loose   boolean NOT NULL,
    mixes         boolean NOT NULL,         -- items, lots and statuses
    hazards       text[] NOT NULL,
    free_volume   bigint NOT NULL,
    free_weight   bigint NOT NULL,
    free_plates   bigint NOT NULL,
    fullness      bigint NOT NULL,
    empty         boolean NOT NULL,
    only_item     text,                     -- what it holds when that is one item, lot and status
    only_lot      text,
    only_status   text
);
CREATE TABLE stock (
    bin     text COLLATE "C" NOT NULL,
    zone    text NOT NULL,                  -- of the bin, beside it: no join is needed to take
    walk    bigint NOT NULL,
    blocked boolean NOT NULL,
    plate   text COLLATE "C" NOT NULL,
    item    text NOT NULL,
    lot     text COLLATE "C" NOT NULL,
    expiry  date NOT NULL,
    arrived date NOT NULL,
    status  text NOT NULL,
    count   bigint NOT NULL
);

-- name: indexes
CREATE INDEX bin_walk ON bin (zone, walk, code) WHERE NOT blocked;
CREATE INDEX bin_empty_walk ON bin (zone, walk, code) WHERE NOT blocked AND empty;
CREATE INDEX bin_empty_level ON bin (zone, level, walk, code) WHERE NOT blocked AND empty;
CREATE INDEX bin_empty_door ON bin (zone, from_door, level, code) WHERE NOT blocked AND empty;
CREATE INDEX bin_full ON bin (zone, fullness DESC, code) WHERE NOT blocked;
CREATE INDEX stock_item ON stock (item, status, expiry) INCLUDE (bin, zone, walk, blocked, plate, lot, arrived, count);
CREATE INDEX stock_plate ON stock (plate) INCLUDE (item, count) WHERE plate <> '';
CREATE INDEX stock_bin ON stock (bin, item, lot);
ANALYZE bin;
ANALYZE stock;

-- name: empty_walk
SELECT code FROM bin
WHERE zone = %(zone)s AND NOT blocked AND empty AND (CASE WHEN %(plate)s THEN takes_plates ELSE takes_loose END)
  AND height >= %(height)s AND free_volume >= %(volume)s AND free_weight >= %(weight)s AND free_plates >= %(plates)s
  AND (%(hazard)s = '' OR %(hazard)s = ANY(hazards))
ORDER BY walk, code LIMIT 1;

-- name: empty_level
SELECT code FROM bin
WHERE zone = %(zone)s AND NOT blocked AND empty AND (CASE WHEN %(plate)s THEN takes_plates ELSE takes_loose END)
  AND height >= %(height)s AND free_volume >= %(volume)s AND free_weight >= %(weight)s AND free_plates >= %(plates)s
  AND (%(hazard)s = '' OR %(hazard)s = ANY(hazards))
ORDER BY level, walk, code LIMIT 1;

-- name: empty_door
SELECT code FROM bin
WHERE zone = %(zone)s AND NOT blocked AND empty AND (CASE WHEN %(plate)s THEN takes_plates ELSE takes_loose END)
  AND height >= %(height)s AND free_volume >= %(volume)s AND free_weight >= %(weight)s AND free_plates >= %(plates)s
  AND (%(hazard)s = '' OR %(hazard)s = ANY(hazards))
ORDER BY from_door, level, code LIMIT 1;

-- name: any_walk
SELECT code FROM bin
WHERE zone = %(zone)s AND NOT blocked AND (CASE WHEN %(plate)s THEN takes_plates ELSE takes_loose END)
  AND height >= %(height)s AND free_volume >= %(volume)s AND free_weight >= %(weight)s AND free_plates >= %(plates)s
  AND (mixes OR empty OR (only_item = %(item)s AND only_lot = %(lot)s AND only_status = 'available'))
  AND (%(hazard)s = '' OR %(hazard)s = ANY(hazards))
ORDER BY walk, code LIMIT 1;

-- name: any_full
SELECT code FROM bin
WHERE zone = %(zone)s AND NOT blocked AND (CASE WHEN %(plate)s THEN takes_plates ELSE takes_loose END)
  AND height >= %(height)s AND free_volume >= %(volume)s AND free_weight >= %(weight)s AND free_plates >= %(plates)s
  AND (mixes OR empty OR (only_item = %(item)s AND only_lot = %(lot)s AND only_status = 'available'))
  AND (%(hazard)s = '' OR %(hazard)s = ANY(hazards))
ORDER BY fullness DESC, code LIMIT 1;

-- name: same_item
SELECT b.code FROM (SELECT DISTINCT bin FROM stock WHERE item = %(item)s) s JOIN bin b ON b.code = s.bin
WHERE b.zone = %(zone)s AND NOT b.blocked AND (CASE WHEN %(plate)s THEN takes_plates ELSE takes_loose END)
  AND height >= %(height)s AND free_volume >= %(volume)s AND free_weight >= %(weight)s AND free_plates >= %(plates)s
  AND (mixes OR (only_item = %(item)s AND only_lot = %(lot)s AND only_status = 'available'))
  AND (%(hazard)s = '' OR %(hazard)s = ANY(hazards))
ORDER BY walk, code LIMIT 1;

-- name: same_item_lot
SELECT b.code FROM (SELECT DISTINCT bin FROM stock WHERE item = %(item)s AND lot = %(lot)s) s JOIN bin b ON b.code = s.bin
WHERE b.zone = %(zone)s AND NOT b.blocked AND (CASE WHEN %(plate)s THEN takes_plates ELSE takes_loose END)
  AND height >= %(height)s AND free_volume >= %(volume)s AND free_weight >= %(weight)s AND free_plates >= %(plates)s
  AND (mixes OR (only_item = %(item)s AND only_lot = %(lot)s AND only_status = 'available'))
  AND (%(hazard)s = '' OR %(hazard)s = ANY(hazards))
ORDER BY walk, code LIMIT 1;

-- name: take
-- Everything of an item that may be taken in the places the rules look at; shares are dealt out by the caller.
SELECT bin, zone, walk, plate, lot, expiry, arrived, count FROM stock
WHERE item = %(item)s AND status = 'available' AND expiry >= %(today)s AND NOT blocked;

-- name: whole_plates
SELECT plate, sum(count) FROM stock WHERE plate = ANY(%(plates)s) AND plate <> '' GROUP BY plate HAVING count(DISTINCT item) = 1;

ALTER TABLE bodies ADD COLUMN lockup_minutes REAL;
ALTER TABLE bodies ADD COLUMN chamber_mm REAL;
ALTER TABLE bodies ADD COLUMN lens_focal_mm REAL;
ALTER TABLE bodies ADD COLUMN lens_smallest_f REAL;

ALTER TABLE kit ADD COLUMN source TEXT NOT NULL DEFAULT '';
ALTER TABLE kit ADD COLUMN pack_size REAL;
ALTER TABLE kit ADD COLUMN pack_price REAL;
ALTER TABLE kit ADD COLUMN opened_on TEXT;
ALTER TABLE kit ADD COLUMN best_before TEXT;
ALTER TABLE kit ADD COLUMN lead_days INTEGER CHECK (lead_days >= 0);
ALTER TABLE kit ADD COLUMN suits_all INTEGER NOT NULL DEFAULT 1;

CREATE TABLE kit_suits (
    kit_id INTEGER NOT NULL REFERENCES kit (id) ON DELETE CASCADE,
    body_id INTEGER NOT NULL REFERENCES bodies (id) ON DELETE CASCADE,
    PRIMARY KEY (kit_id, body_id)
) STRICT;

CREATE TABLE stock_moves (
    id INTEGER PRIMARY KEY,
    kit_id INTEGER REFERENCES kit (id) ON DELETE SET NULL,
    trail_id INTEGER REFERENCES trail (id) ON DELETE SET NULL,
    visit_id INTEGER REFERENCES visits (id) ON DELETE SET NULL,
    body_id INTEGER REFERENCES bodies (id) ON DELETE SET NULL,
    why TEXT NOT NULL CHECK (why IN ('entered', 'bought', 'counted', 'used')),
    change REAL NOT NULL,
    unit_price REAL,
    thing TEXT NOT NULL,
    at TEXT NOT NULL,
    CHECK ((why = 'used') = (change < 0) OR why = 'counted')
) STRICT;
CREATE INDEX moves_of_kit ON stock_moves (kit_id);
CREATE INDEX moves_of_trail ON stock_moves (trail_id);
CREATE INDEX moves_of_visit ON stock_moves (visit_id);
CREATE INDEX moves_of_body ON stock_moves (body_id, at);

INSERT INTO stock_moves (kit_id, why, change, thing, at)
SELECT id, 'entered',
       coalesce(json_extract(item_json, '$.fresh_patches'), json_extract(item_json, '$.quantity')),
       json_extract(item_json, '$.item'), strftime('%Y-%m-%dT%H:%M:%fZ', 'now')
FROM kit
WHERE coalesce(json_extract(item_json, '$.fresh_patches'), json_extract(item_json, '$.quantity'))
      IS NOT NULL
  AND json_extract(item_json, '$.item') IN (
      'dry_swab', 'wet_swab', 'corner_swab', 'sterile_pad', 'moist_wipe', 'lens_wipe',
      'lint_free_bud', 'gel_stick', 'silicone_pad', 'fluid');
UPDATE kit SET item_json = json_remove(item_json, '$.fresh_patches', '$.quantity');

CREATE TABLE bookings (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL CHECK (length(name) BETWEEN 1 AND 120),
    starts_on TEXT NOT NULL,
    note TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX bookings_by_day ON bookings (starts_on);

CREATE TABLE booking_bodies (
    booking_id INTEGER NOT NULL REFERENCES bookings (id) ON DELETE CASCADE,
    body_id INTEGER NOT NULL REFERENCES bodies (id) ON DELETE CASCADE,
    PRIMARY KEY (booking_id, body_id)
) STRICT;
CREATE INDEX bookings_of_body ON booking_bodies (body_id);

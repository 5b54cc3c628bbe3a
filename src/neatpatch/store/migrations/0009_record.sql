-- What each retested step did to each kind of spot. Worked out from maps and comparisons, and made
-- again when they change; recorded says for which version of a visit.
CREATE TABLE retests (
    entry_id INTEGER NOT NULL REFERENCES trail (id) ON DELETE CASCADE,
    kind TEXT NOT NULL,
    visit_id INTEGER NOT NULL REFERENCES visits (id) ON DELETE CASCADE,
    body_id INTEGER NOT NULL,
    step TEXT NOT NULL,
    removed INTEGER NOT NULL,
    stayed INTEGER NOT NULL,
    moved INTEGER NOT NULL,
    new INTEGER NOT NULL,
    PRIMARY KEY (entry_id, kind)
) STRICT, WITHOUT ROWID;
CREATE INDEX retests_of_visit ON retests (visit_id);

-- came: visible spots that a visit's first frame shows and the last frame of the visit before did
-- not, since that day; null where the two cannot be compared.
CREATE TABLE recorded (
    visit_id INTEGER PRIMARY KEY REFERENCES visits (id) ON DELETE CASCADE,
    version INTEGER NOT NULL,
    came INTEGER,
    since TEXT
) STRICT;

-- What may bring dust, logged by its owner.
CREATE TABLE exposures (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    body_id INTEGER NOT NULL REFERENCES bodies (id) ON DELETE CASCADE,
    on_day TEXT NOT NULL,
    kind TEXT NOT NULL CHECK (kind IN ('lens_change', 'dusty_day')),
    place TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX exposures_of_body ON exposures (body_id, on_day);

-- What lists of frames are found and sorted by, without reading past the maps themselves.
CREATE INDEX maps_camera ON maps (camera) WHERE camera IS NOT NULL;
CREATE INDEX maps_listed ON maps (frame_id, fit, spot_count, taken_at);

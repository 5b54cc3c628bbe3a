-- The sensor's own pattern, built up from a body's test frames: private, never shown, compact.
CREATE TABLE fingerprints (
    body_id INTEGER PRIMARY KEY REFERENCES bodies (id) ON DELETE CASCADE,
    reference TEXT NOT NULL,
    frames INTEGER NOT NULL CHECK (frames >= 1),
    pattern BLOB NOT NULL,
    made_at TEXT NOT NULL
) STRICT;

-- What a frame's pattern said when it was held against a body's reference.
CREATE TABLE witnesses (
    frame_id INTEGER NOT NULL REFERENCES frames (id) ON DELETE CASCADE,
    body_id INTEGER NOT NULL REFERENCES bodies (id) ON DELETE CASCADE,
    reference TEXT NOT NULL,
    same INTEGER CHECK (same IN (0, 1)),
    strength REAL NOT NULL,
    chance_limit REAL NOT NULL,
    placement_json TEXT,
    PRIMARY KEY (frame_id, body_id)
) STRICT;
CREATE INDEX witnesses_of_body ON witnesses (body_id);

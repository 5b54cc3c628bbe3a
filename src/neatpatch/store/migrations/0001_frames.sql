CREATE TABLE originals (
    sha256 TEXT PRIMARY KEY CHECK (length(sha256) = 64),
    bytes INTEGER NOT NULL CHECK (bytes > 0),
    stored_at TEXT NOT NULL
) STRICT;

CREATE TABLE frames (
    id INTEGER PRIMARY KEY,
    sha256 TEXT NOT NULL UNIQUE REFERENCES originals (sha256),
    name TEXT NOT NULL,
    source TEXT NOT NULL CHECK (source IN ('upload', 'demo')),
    note TEXT NOT NULL DEFAULT '',
    sensor_width_mm REAL,
    sensor_height_mm REAL,
    added_at TEXT NOT NULL
) STRICT;

CREATE TABLE maps (
    frame_id INTEGER PRIMARY KEY REFERENCES frames (id) ON DELETE CASCADE,
    map_json TEXT NOT NULL,
    made_by TEXT NOT NULL,
    made_at TEXT NOT NULL
) STRICT;

CREATE TABLE jobs (
    id INTEGER PRIMARY KEY,
    kind TEXT NOT NULL CHECK (kind IN ('map', 'demo')),
    frame_id INTEGER REFERENCES frames (id) ON DELETE SET NULL,
    label TEXT NOT NULL,
    state TEXT NOT NULL CHECK (state IN ('queued', 'running', 'done', 'failed', 'cancelled')),
    progress REAL NOT NULL DEFAULT 0,
    step TEXT NOT NULL DEFAULT '',
    error TEXT,
    created_at TEXT NOT NULL,
    finished_at TEXT
) STRICT;

CREATE INDEX jobs_open ON jobs (state) WHERE state IN ('queued', 'running');
CREATE INDEX jobs_of_frame ON jobs (frame_id);

CREATE TABLE settings (
    key TEXT PRIMARY KEY,
    value TEXT NOT NULL
) STRICT;

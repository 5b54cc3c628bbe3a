CREATE TABLE bodies (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL COLLATE NOCASE UNIQUE CHECK (length(name) BETWEEN 1 AND 80),
    camera_name TEXT,
    access TEXT NOT NULL
        CHECK (access IN ('mirror', 'fixed_mirror', 'mirrorless', 'fixed_lens', 'digital_back')),
    sensor_width_mm REAL NOT NULL CHECK (sensor_width_mm > 0),
    sensor_height_mm REAL NOT NULL CHECK (sensor_height_mm > 0),
    stabilised INTEGER,
    hold_rule TEXT CHECK (hold_rule IN ('on', 'off', 'battery_out')),
    hold_note TEXT NOT NULL DEFAULT '',
    self_clean INTEGER NOT NULL DEFAULT 0,
    filter_removed INTEGER NOT NULL DEFAULT 0,
    guarantee_until TEXT,
    flange_mm REAL,
    works_at TEXT NOT NULL,
    lockup_note TEXT NOT NULL DEFAULT '',
    pitch_um REAL,
    stack_mm REAL,
    source TEXT NOT NULL DEFAULT 'own' CHECK (source IN ('own', 'demo')),
    created_at TEXT NOT NULL
) STRICT;

CREATE TABLE visits (
    id INTEGER PRIMARY KEY,
    body_id INTEGER NOT NULL REFERENCES bodies (id) ON DELETE CASCADE,
    state TEXT NOT NULL CHECK (state IN ('open', 'closed')),
    conditions_json TEXT NOT NULL,
    verdict TEXT CHECK (verdict IN ('finished', 'deferred', 'sent', 'given_up')),
    note TEXT NOT NULL DEFAULT '',
    until TEXT,
    first_relevant INTEGER,
    last_relevant INTEGER,
    version INTEGER NOT NULL DEFAULT 1,
    opened_at TEXT NOT NULL,
    closed_at TEXT,
    CHECK ((state = 'closed') = (verdict IS NOT NULL))
) STRICT;
CREATE UNIQUE INDEX one_open_visit ON visits (body_id) WHERE state = 'open';
CREATE INDEX visits_of_body ON visits (body_id, opened_at);

CREATE TABLE trail (
    id INTEGER PRIMARY KEY,
    visit_id INTEGER NOT NULL REFERENCES visits (id) ON DELETE CASCADE,
    frame_id INTEGER REFERENCES frames (id) ON DELETE CASCADE,
    step TEXT,
    use_json TEXT NOT NULL DEFAULT '{}',
    against TEXT NOT NULL DEFAULT '',
    accepted INTEGER NOT NULL DEFAULT 0,
    at TEXT NOT NULL,
    CHECK ((frame_id IS NULL) <> (step IS NULL))
) STRICT;
CREATE INDEX trail_of_visit ON trail (visit_id, id);
CREATE INDEX trail_of_frame ON trail (frame_id);

CREATE TABLE series (
    lead_id INTEGER NOT NULL REFERENCES frames (id) ON DELETE CASCADE,
    member_id INTEGER NOT NULL REFERENCES frames (id) ON DELETE CASCADE,
    PRIMARY KEY (lead_id, member_id),
    CHECK (lead_id <> member_id)
) STRICT;

CREATE TABLE kit (
    id INTEGER PRIMARY KEY,
    item_json TEXT NOT NULL,
    note TEXT NOT NULL DEFAULT ''
) STRICT;

CREATE TABLE bench_bodies (
    body_id INTEGER PRIMARY KEY REFERENCES bodies (id) ON DELETE CASCADE,
    camera_json TEXT NOT NULL,
    dust_json TEXT NOT NULL,
    turn INTEGER NOT NULL DEFAULT 0
) STRICT;

CREATE TABLE jobs_wider (
    id INTEGER PRIMARY KEY,
    kind TEXT NOT NULL CHECK (kind IN ('map', 'demo', 'shoot')),
    frame_id INTEGER REFERENCES frames (id) ON DELETE SET NULL,
    visit_id INTEGER REFERENCES visits (id) ON DELETE CASCADE,
    label TEXT NOT NULL,
    detail_json TEXT NOT NULL DEFAULT '{}',
    state TEXT NOT NULL CHECK (state IN ('queued', 'running', 'done', 'failed', 'cancelled')),
    progress REAL NOT NULL DEFAULT 0,
    step TEXT NOT NULL DEFAULT '',
    error TEXT,
    created_at TEXT NOT NULL,
    finished_at TEXT
) STRICT;
INSERT INTO jobs_wider (id, kind, frame_id, label, state, progress, step, error, created_at, finished_at)
SELECT id, kind, frame_id, label, state, progress, step, error, created_at, finished_at FROM jobs;
DROP TABLE jobs;
ALTER TABLE jobs_wider RENAME TO jobs;
CREATE INDEX jobs_open ON jobs (state) WHERE state IN ('queued', 'running');
CREATE INDEX jobs_of_frame ON jobs (frame_id);
CREATE INDEX jobs_of_visit ON jobs (visit_id);

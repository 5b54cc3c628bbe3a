-- Ids are given out once only (AUTOINCREMENT): a page that was left open must never act on another
-- thing under a number it remembers. Tables are rebuilt for it, with foreign keys off meanwhile.

CREATE TABLE new_frames (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    sha256 TEXT NOT NULL UNIQUE REFERENCES originals (sha256),
    name TEXT NOT NULL,
    source TEXT NOT NULL CHECK (source IN ('upload', 'demo')),
    note TEXT NOT NULL DEFAULT '',
    sensor_width_mm REAL,
    sensor_height_mm REAL,
    added_at TEXT NOT NULL
) STRICT;
INSERT INTO new_frames
SELECT id, sha256, name, source, note, sensor_width_mm, sensor_height_mm, added_at FROM frames;
DROP TABLE frames;
ALTER TABLE new_frames RENAME TO frames;

-- What lists show of a map stands in columns: they never parse one. shows_from: a JSON array of the
-- f-numbers from which the spots of the sensor are visible. version: raised with every new map.
CREATE TABLE new_maps (
    frame_id INTEGER PRIMARY KEY REFERENCES frames (id) ON DELETE CASCADE,
    map_json TEXT NOT NULL,
    version INTEGER NOT NULL DEFAULT 1,
    fit INTEGER,
    spot_count INTEGER NOT NULL DEFAULT 0,
    shows_from TEXT NOT NULL DEFAULT '[]',
    camera TEXT,
    taken_at TEXT,
    made_by TEXT NOT NULL,
    made_at TEXT NOT NULL
) STRICT;
INSERT INTO new_maps
SELECT m.frame_id, m.map_json, 1, json_extract(m.map_json, '$.fit'),
       coalesce(json_extract(m.map_json, '$.summary.count'), 0),
       (SELECT json_group_array(json_extract(s.value, '$.shows_from_f'))
        FROM json_each(m.map_json, '$.spots') s
        WHERE json_extract(s.value, '$.site') IN ('sensor', 'unsure')
          AND json_extract(s.value, '$.shows_from_f') IS NOT NULL),
       json_extract(m.map_json, '$.frames[0].camera'),
       json_extract(m.map_json, '$.frames[0].taken_at'), m.made_by, m.made_at
FROM maps m;
DROP TABLE maps;
ALTER TABLE new_maps RENAME TO maps;
CREATE INDEX maps_fit ON maps (frame_id) WHERE fit = 1;

-- Two frames laid on each other, once for each pair of maps.
CREATE TABLE comparisons (
    before_id INTEGER NOT NULL REFERENCES frames (id) ON DELETE CASCADE,
    after_id INTEGER NOT NULL REFERENCES frames (id) ON DELETE CASCADE,
    before_version INTEGER NOT NULL,
    after_version INTEGER NOT NULL,
    comparison_json TEXT NOT NULL,
    PRIMARY KEY (before_id, after_id)
) STRICT;
CREATE INDEX comparisons_after ON comparisons (after_id);

CREATE TABLE new_bodies (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
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
    lockup_minutes REAL,
    chamber_mm REAL,
    lens_focal_mm REAL,
    lens_smallest_f REAL,
    version INTEGER NOT NULL DEFAULT 1,
    source TEXT NOT NULL DEFAULT 'own' CHECK (source IN ('own', 'demo')),
    created_at TEXT NOT NULL
) STRICT;
INSERT INTO new_bodies
SELECT id, name, camera_name, access, sensor_width_mm, sensor_height_mm, stabilised, hold_rule,
       hold_note, self_clean, filter_removed,
       CASE WHEN date(guarantee_until, '+0 days') = guarantee_until THEN guarantee_until END,
       flange_mm, works_at, lockup_note, pitch_um, stack_mm, lockup_minutes, chamber_mm,
       lens_focal_mm, lens_smallest_f, 1, source, created_at
FROM bodies;
DROP TABLE bodies;
ALTER TABLE new_bodies RENAME TO bodies;

-- A day that is none (such as 30 February) was once let in; it is dropped, for nothing can show it.
CREATE TABLE new_visits (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    body_id INTEGER NOT NULL REFERENCES bodies (id) ON DELETE CASCADE,
    state TEXT NOT NULL CHECK (state IN ('open', 'closed')),
    conditions_json TEXT NOT NULL,
    conditions_version INTEGER NOT NULL DEFAULT 1,
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
INSERT INTO new_visits
SELECT id, body_id, state,
       CASE WHEN json_extract(conditions_json, '$.job_on') IS NULL
                 OR date(json_extract(conditions_json, '$.job_on'), '+0 days')
                    = json_extract(conditions_json, '$.job_on')
            THEN conditions_json ELSE json_remove(conditions_json, '$.job_on') END,
       1, verdict, note, CASE WHEN date(until, '+0 days') = until THEN until END, first_relevant,
       last_relevant, version, opened_at, closed_at
FROM visits;
DROP TABLE visits;
ALTER TABLE new_visits RENAME TO visits;
CREATE UNIQUE INDEX one_open_visit ON visits (body_id) WHERE state = 'open';
CREATE INDEX visits_of_body ON visits (body_id, opened_at);

CREATE TABLE new_trail (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    visit_id INTEGER NOT NULL REFERENCES visits (id) ON DELETE CASCADE,
    frame_id INTEGER REFERENCES frames (id) ON DELETE CASCADE,
    step TEXT,
    use_json TEXT NOT NULL DEFAULT '{}',
    against TEXT NOT NULL DEFAULT '',
    accepted INTEGER NOT NULL DEFAULT 0,
    at TEXT NOT NULL,
    CHECK ((frame_id IS NULL) <> (step IS NULL))
) STRICT;
INSERT INTO new_trail
SELECT id, visit_id, frame_id, step, use_json, against, accepted, at FROM trail;
DROP TABLE trail;
ALTER TABLE new_trail RENAME TO trail;
CREATE INDEX trail_of_visit ON trail (visit_id, id);
CREATE INDEX trail_of_frame ON trail (frame_id);
CREATE INDEX series_of_member ON series (member_id);

CREATE TABLE new_kit (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    item_json TEXT NOT NULL,
    note TEXT NOT NULL DEFAULT '',
    source TEXT NOT NULL DEFAULT '',
    pack_size REAL,
    pack_price REAL,
    opened_on TEXT,
    best_before TEXT,
    lead_days INTEGER CHECK (lead_days >= 0),
    suits_all INTEGER NOT NULL DEFAULT 1,
    version INTEGER NOT NULL DEFAULT 1
) STRICT;
INSERT INTO new_kit
SELECT id, item_json, note, source, pack_size, pack_price,
       CASE WHEN date(opened_on, '+0 days') = opened_on THEN opened_on END,
       CASE WHEN date(best_before, '+0 days') = best_before THEN best_before END, lead_days, suits_all, 1
FROM kit;
DROP TABLE kit;
ALTER TABLE new_kit RENAME TO kit;
CREATE INDEX suits_of_body ON kit_suits (body_id);

DROP INDEX IF EXISTS moves_of_kit;
DROP INDEX IF EXISTS moves_of_body;
DROP INDEX IF EXISTS moves_used;
CREATE INDEX moves_of_kit ON stock_moves (kit_id, change);
CREATE INDEX moves_of_body ON stock_moves (body_id);
CREATE INDEX moves_used ON stock_moves (at, body_id, visit_id, change, unit_price)
    WHERE why = 'used';

CREATE TABLE new_bookings (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    name TEXT NOT NULL CHECK (length(name) BETWEEN 1 AND 120),
    starts_on TEXT NOT NULL,
    note TEXT NOT NULL DEFAULT '',
    version INTEGER NOT NULL DEFAULT 1
) STRICT;
INSERT INTO new_bookings
SELECT id, name, coalesce(date(starts_on, '+0 days'), date('now')), note, 1 FROM bookings;
DROP TABLE bookings;
ALTER TABLE new_bookings RENAME TO bookings;
CREATE INDEX bookings_by_day ON bookings (starts_on);

-- attempts: how often a worker died over it. again: asked for anew while it ran. not_before: when
-- it may be tried next. A frame has one open job at most.
CREATE TABLE new_jobs (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    kind TEXT NOT NULL CHECK (kind IN ('map', 'picture', 'demo', 'shoot')),
    frame_id INTEGER REFERENCES frames (id) ON DELETE SET NULL,
    visit_id INTEGER REFERENCES visits (id) ON DELETE CASCADE,
    label TEXT NOT NULL,
    detail_json TEXT NOT NULL DEFAULT '{}',
    state TEXT NOT NULL CHECK (state IN ('queued', 'running', 'done', 'failed', 'cancelled')),
    progress REAL NOT NULL DEFAULT 0,
    step TEXT NOT NULL DEFAULT '',
    error TEXT,
    attempts INTEGER NOT NULL DEFAULT 0,
    again INTEGER NOT NULL DEFAULT 0,
    not_before TEXT,
    created_at TEXT NOT NULL,
    finished_at TEXT
) STRICT;
INSERT INTO new_jobs
SELECT id, kind, frame_id, visit_id, label, detail_json,
       CASE WHEN state IN ('queued', 'running') AND frame_id IS NOT NULL AND EXISTS (
                SELECT 1 FROM jobs later WHERE later.frame_id = jobs.frame_id
                AND later.id > jobs.id AND later.state IN ('queued', 'running'))
            THEN 'cancelled' ELSE state END,
       progress, step, error, 0, 0, NULL, created_at, finished_at
FROM jobs;
DROP TABLE jobs;
ALTER TABLE new_jobs RENAME TO jobs;
CREATE INDEX jobs_open ON jobs (state) WHERE state IN ('queued', 'running');
CREATE INDEX jobs_next ON jobs ((kind = 'demo'), (kind = 'picture'), id) WHERE state = 'queued';
CREATE UNIQUE INDEX one_open_job ON jobs (frame_id)
    WHERE frame_id IS NOT NULL AND state IN ('queued', 'running');
CREATE INDEX jobs_of_frame ON jobs (frame_id);
CREATE INDEX jobs_of_visit ON jobs (visit_id);

ALTER TABLE settings ADD COLUMN version INTEGER NOT NULL DEFAULT 1;

-- What a page asked for under a key of its own, so that a repeated request is not done twice.
CREATE TABLE requests (
    key TEXT PRIMARY KEY CHECK (length(key) BETWEEN 8 AND 64),
    what TEXT NOT NULL,
    result_id INTEGER,
    at TEXT NOT NULL
) STRICT;
CREATE INDEX requests_by_day ON requests (at);

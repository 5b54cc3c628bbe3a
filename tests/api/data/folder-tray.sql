BEGIN TRANSACTION;
CREATE TABLE backdrops (
    frame_id INTEGER PRIMARY KEY REFERENCES frames (id) ON DELETE CASCADE,
    cells BLOB NOT NULL
) STRICT;
CREATE TABLE bench_bodies (
    body_id INTEGER PRIMARY KEY REFERENCES bodies (id) ON DELETE CASCADE,
    camera_json TEXT NOT NULL,
    dust_json TEXT NOT NULL,
    turn INTEGER NOT NULL DEFAULT 0
) STRICT;
CREATE TABLE "bodies" (
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
, closes_when_off INTEGER CHECK (closes_when_off IN (0, 1)), modifier_allows INTEGER CHECK (modifier_allows IN (0, 1)), serial TEXT NOT NULL DEFAULT '', shake_note TEXT NOT NULL DEFAULT '', cleaning_note TEXT NOT NULL DEFAULT '', latch_note TEXT NOT NULL DEFAULT '', no_guarantee INTEGER NOT NULL DEFAULT 0 CHECK (no_guarantee IN (0, 1)), serviced_on TEXT, uid TEXT) STRICT;
INSERT INTO "bodies" VALUES(1,'Study',NULL,'mirrorless',23.5,15.6,NULL,NULL,'',0,0,NULL,NULL,'8,16','',NULL,NULL,NULL,NULL,NULL,NULL,1,'own','2026-12-01T15:47:19.922+00:00',NULL,NULL,'41-7','','','',0,NULL,'977ee4ac1b17e799f780f005620d4d94');
CREATE TABLE booking_bodies (
    booking_id INTEGER NOT NULL REFERENCES bookings (id) ON DELETE CASCADE,
    body_id INTEGER NOT NULL REFERENCES bodies (id) ON DELETE CASCADE,
    PRIMARY KEY (booking_id, body_id)
) STRICT;
CREATE TABLE "bookings" (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    name TEXT NOT NULL CHECK (length(name) BETWEEN 1 AND 120),
    starts_on TEXT NOT NULL,
    note TEXT NOT NULL DEFAULT '',
    version INTEGER NOT NULL DEFAULT 1
, uid TEXT) STRICT;
CREATE TABLE comparisons (
    before_id INTEGER NOT NULL REFERENCES frames (id) ON DELETE CASCADE,
    after_id INTEGER NOT NULL REFERENCES frames (id) ON DELETE CASCADE,
    before_version INTEGER NOT NULL,
    after_version INTEGER NOT NULL,
    comparison_json TEXT NOT NULL,
    PRIMARY KEY (before_id, after_id)
) STRICT;
CREATE TABLE devices (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    name TEXT NOT NULL,
    label TEXT NOT NULL DEFAULT '',
    role TEXT NOT NULL CHECK (role IN ('owner', 'helper', 'viewer', 'report')),
    token_hash TEXT NOT NULL UNIQUE,
    visit_id INTEGER REFERENCES visits (id) ON DELETE CASCADE,
    paired_at TEXT NOT NULL,
    last_used_at TEXT,
    expires_at TEXT
) STRICT;
CREATE TABLE exposures (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    body_id INTEGER NOT NULL REFERENCES bodies (id) ON DELETE CASCADE,
    on_day TEXT NOT NULL,
    kind TEXT NOT NULL CHECK (kind IN ('lens_change', 'dusty_day')),
    place TEXT NOT NULL DEFAULT ''
, uid TEXT) STRICT;
CREATE TABLE fingerprints (
    body_id INTEGER PRIMARY KEY REFERENCES bodies (id) ON DELETE CASCADE,
    reference TEXT NOT NULL,
    frames INTEGER NOT NULL CHECK (frames >= 1),
    pattern BLOB NOT NULL,
    made_at TEXT NOT NULL
) STRICT;
CREATE TABLE "frames" (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    sha256 TEXT NOT NULL UNIQUE REFERENCES originals (sha256),
    name TEXT NOT NULL,
    source TEXT NOT NULL CHECK (source IN ('upload', 'demo')),
    note TEXT NOT NULL DEFAULT '',
    sensor_width_mm REAL,
    sensor_height_mm REAL,
    added_at TEXT NOT NULL
, found TEXT GENERATED ALWAYS AS (lower(name || char(10) || note)) VIRTUAL) STRICT;
INSERT INTO "frames" VALUES(1,'38166ab68325c829fa8c480f6aeeb603714dcdbfc1ac796c2514519572089ca9','old.jpg','upload','',NULL,NULL,'2026-12-01T15:47:19.925+00:00');
CREATE TABLE hands (
    visit_id INTEGER PRIMARY KEY REFERENCES visits (id) ON DELETE CASCADE,
    step TEXT NOT NULL,
    position_json TEXT NOT NULL,
    version INTEGER NOT NULL DEFAULT 1,
    at REAL NOT NULL
) STRICT;
CREATE TABLE "jobs" (
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
INSERT INTO "jobs" VALUES(1,'map',1,NULL,'old.jpg','{}','done',1.0,'',NULL,0,0,NULL,'2026-12-01T15:47:19.927+00:00','2026-12-01T15:47:19.928+00:00');
CREATE TABLE "kit" (
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
, there REAL, uid TEXT) STRICT;
CREATE TABLE kit_suits (
    kit_id INTEGER NOT NULL REFERENCES kit (id) ON DELETE CASCADE,
    body_id INTEGER NOT NULL REFERENCES bodies (id) ON DELETE CASCADE,
    PRIMARY KEY (kit_id, body_id)
) STRICT;
CREATE TABLE links (
    entry_id INTEGER PRIMARY KEY REFERENCES trail (id) ON DELETE CASCADE,
    visit_id INTEGER NOT NULL REFERENCES visits (id) ON DELETE CASCADE,
    frame_id INTEGER NOT NULL,
    before_id INTEGER,
    fates TEXT NOT NULL
) STRICT;
CREATE TABLE "maps" (
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
, clues_json TEXT NOT NULL DEFAULT '{}') STRICT;
INSERT INTO "maps" VALUES(1,'{"schema":"neatpatch.map/1","frames":[{"path":"frame.jpg","sha256":"0000000000000000000000000000000000000000000000000000000000000000","format":"JPEG","width_px":3000,"height_px":2000,"orientation":1,"f_number":22.0,"iso":100,"exposure_s":1.0,"focal_length_mm":85.0,"camera":"Fennick Judge D","taken_at":null,"pitch_um":12.0,"sensor_mm":[36.0,24.0],"notes":[]}],"fit":true,"checks":[],"optics":{"height_mm":1.5,"height_source":"fitted","blur_um":68.0,"blur_px":5.7,"softness_px":0.8},"spots":[{"id":"s0","x_px":300.0,"y_px":300.0,"x_mm":-14.394,"y_mm":-8.394,"zone":"centre","kind":"speck","site":"sensor","snr":120.0,"depth":0.3,"outer_px":12.0,"outer_um":144.0,"length_um":null,"particle_um":60.0,"height_mm":1.5,"shows_from_f":8.0,"seen_in":1,"angle_deg":null,"width_px":null,"course_px":null,"particle_px":5.0,"blur_px":6.0},{"id":"s1","x_px":500.0,"y_px":400.0,"x_mm":-11.994,"y_mm":-7.194,"zone":"centre","kind":"speck","site":"sensor","snr":120.0,"depth":0.3,"outer_px":12.0,"outer_um":144.0,"length_um":null,"particle_um":60.0,"height_mm":1.5,"shows_from_f":8.0,"seen_in":1,"angle_deg":null,"width_px":null,"course_px":null,"particle_px":5.0,"blur_px":6.0},{"id":"s2","x_px":700.0,"y_px":500.0,"x_mm":-9.594,"y_mm":-5.994,"zone":"centre","kind":"speck","site":"sensor","snr":120.0,"depth":0.3,"outer_px":12.0,"outer_um":144.0,"length_um":null,"particle_um":60.0,"height_mm":1.5,"shows_from_f":8.0,"seen_in":1,"angle_deg":null,"width_px":null,"course_px":null,"particle_px":5.0,"blur_px":6.0},{"id":"s3","x_px":900.0,"y_px":600.0,"x_mm":-7.194,"y_mm":-4.794,"zone":"centre","kind":"speck","site":"sensor","snr":120.0,"depth":0.3,"outer_px":12.0,"outer_um":144.0,"length_um":null,"particle_um":60.0,"height_mm":1.5,"shows_from_f":8.0,"seen_in":1,"angle_deg":null,"width_px":null,"course_px":null,"particle_px":5.0,"blur_px":6.0}],"summary":{"count":4,"relevant":4,"by_kind":{"speck":4},"covered_ppm":75.4},"moved":null}',1,1,4,'[8.0, 8.0, 8.0, 8.0]','Fennick Judge D',NULL,'1','2026-12-01T15:47:19.926+00:00','{}');
CREATE TABLE migrations (name TEXT PRIMARY KEY, applied_at TEXT NOT NULL) STRICT;
INSERT INTO "migrations" VALUES('0001_frames','2026-12-01T15:47:19.674+00:00');
INSERT INTO "migrations" VALUES('0002_visits','2026-12-01T15:47:19.686+00:00');
INSERT INTO "migrations" VALUES('0003_kit_and_jobs','2026-12-01T15:47:19.701+00:00');
INSERT INTO "migrations" VALUES('0004_kept','2026-12-01T15:47:19.731+00:00');
INSERT INTO "migrations" VALUES('0005_fingerprints','2026-12-01T15:47:19.741+00:00');
INSERT INTO "migrations" VALUES('0006_place_and_truth','2026-12-01T15:47:19.757+00:00');
INSERT INTO "migrations" VALUES('0007_at_home','2026-12-01T15:47:19.769+00:00');
INSERT INTO "migrations" VALUES('0008_pictures','2026-12-01T15:47:19.787+00:00');
INSERT INTO "migrations" VALUES('0009_record','2026-12-01T15:47:19.795+00:00');
INSERT INTO "migrations" VALUES('0010_lives','2026-12-01T15:47:19.812+00:00');
INSERT INTO "migrations" VALUES('0011_sharing','2026-12-01T15:47:19.823+00:00');
INSERT INTO "migrations" VALUES('0012_identity','2026-12-01T15:47:19.847+00:00');
INSERT INTO "migrations" VALUES('0013_practice','2026-12-01T15:47:19.858+00:00');
INSERT INTO "migrations" VALUES('0014_found','2026-12-01T15:47:19.870+00:00');
INSERT INTO "migrations" VALUES('0015_exercises','2026-12-01T15:47:19.885+00:00');
INSERT INTO "migrations" VALUES('0016_tray','2026-12-01T15:47:19.916+00:00');
CREATE TABLE originals (
    sha256 TEXT PRIMARY KEY CHECK (length(sha256) = 64),
    bytes INTEGER NOT NULL CHECK (bytes > 0),
    stored_at TEXT NOT NULL
) STRICT;
INSERT INTO "originals" VALUES('38166ab68325c829fa8c480f6aeeb603714dcdbfc1ac796c2514519572089ca9',9,'2026-12-01T15:47:19.925+00:00');
CREATE TABLE picture_sets (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    body_id INTEGER NOT NULL REFERENCES bodies (id) ON DELETE CASCADE,
    kind TEXT NOT NULL CHECK (kind IN ('patch', 'arrivals')),
    folder TEXT NOT NULL,
    frame_id INTEGER REFERENCES frames (id) ON DELETE SET NULL,
    map_json TEXT,
    out_folder TEXT NOT NULL DEFAULT '',
    work TEXT NOT NULL CHECK (work IN ('look', 'write', 'search')),
    state TEXT NOT NULL CHECK (state IN ('waiting', 'working', 'stopped', 'done', 'failed')),
    step TEXT NOT NULL DEFAULT '',
    progress REAL NOT NULL DEFAULT 0,
    error TEXT,
    veto_json TEXT NOT NULL DEFAULT '[]',
    result_json TEXT,
    created_at TEXT NOT NULL
) STRICT;
CREATE TABLE pictures (
    set_id INTEGER NOT NULL REFERENCES picture_sets (id) ON DELETE CASCADE,
    number INTEGER NOT NULL,
    path TEXT NOT NULL,
    looked_json TEXT,
    leave INTEGER NOT NULL DEFAULT 0,
    veto_json TEXT NOT NULL DEFAULT '[]',
    done_json TEXT,
    PRIMARY KEY (set_id, number)
) STRICT, WITHOUT ROWID;
CREATE TABLE "practice" (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    exercise TEXT NOT NULL CHECK (exercise IN ('frames', 'places', 'moves', 'hand', 'clean')),
    seed INTEGER NOT NULL,
    topic TEXT NOT NULL,
    is_right INTEGER NOT NULL CHECK (is_right IN (0, 1)),
    is_unsafe INTEGER NOT NULL CHECK (is_unsafe IN (0, 1)),
    error_mm REAL,
    seconds REAL NOT NULL,
    at TEXT NOT NULL
) STRICT;
CREATE TABLE recorded (
    visit_id INTEGER PRIMARY KEY REFERENCES visits (id) ON DELETE CASCADE,
    version INTEGER NOT NULL,
    came INTEGER,
    since TEXT
, before_visit INTEGER, before_version INTEGER) STRICT;
CREATE TABLE requests (
    key TEXT PRIMARY KEY CHECK (length(key) BETWEEN 8 AND 64),
    what TEXT NOT NULL,
    result_id INTEGER,
    at TEXT NOT NULL
) STRICT;
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
CREATE TABLE seekers (
    frame_id INTEGER PRIMARY KEY REFERENCES frames (id) ON DELETE CASCADE,
    body_id INTEGER REFERENCES bodies (id) ON DELETE SET NULL
) STRICT;
CREATE TABLE series (
    lead_id INTEGER NOT NULL REFERENCES frames (id) ON DELETE CASCADE,
    member_id INTEGER NOT NULL REFERENCES frames (id) ON DELETE CASCADE,
    PRIMARY KEY (lead_id, member_id),
    CHECK (lead_id <> member_id)
) STRICT;
CREATE TABLE settings (
    key TEXT PRIMARY KEY,
    value TEXT NOT NULL
, version INTEGER NOT NULL DEFAULT 1) STRICT;
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
    at TEXT NOT NULL, uid TEXT,
    CHECK ((why = 'used') = (change < 0) OR why = 'counted')
) STRICT;
CREATE TABLE "trail" (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    visit_id INTEGER NOT NULL REFERENCES visits (id) ON DELETE CASCADE,
    frame_id INTEGER REFERENCES frames (id) ON DELETE CASCADE,
    step TEXT,
    use_json TEXT NOT NULL DEFAULT '{}',
    against TEXT NOT NULL DEFAULT '',
    accepted INTEGER NOT NULL DEFAULT 0,
    at TEXT NOT NULL, removed_json TEXT, who TEXT NOT NULL DEFAULT '', uid TEXT,
    CHECK ((frame_id IS NULL) <> (step IS NULL))
) STRICT;
INSERT INTO "trail" VALUES(1,1,1,NULL,'{}','',0,'2026-12-01T15:47:19.927+00:00',NULL,'','5f1638f81d14db1a77b67301ae211e97');
INSERT INTO "trail" VALUES(2,1,NULL,'air','{"opening":"down","puffs":15}','',0,'2026-12-01T15:47:19.927+00:00',NULL,'','3dd911aa190ddf382d9188aeeea9b661');
CREATE TABLE tray_photos (
    visit_id INTEGER NOT NULL REFERENCES visits (id) ON DELETE CASCADE,
    step_id TEXT NOT NULL,
    number INTEGER NOT NULL,
    jpeg BLOB NOT NULL,
    taken_at TEXT NOT NULL,
    PRIMARY KEY (visit_id, step_id, number)
) STRICT;
CREATE TABLE tray_plans (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    model TEXT NOT NULL UNIQUE,
    plan_json TEXT NOT NULL,
    changed_at TEXT NOT NULL
) STRICT;
CREATE TABLE trays (
    visit_id INTEGER PRIMARY KEY REFERENCES visits (id) ON DELETE CASCADE,
    plan_json TEXT NOT NULL,
    done_json TEXT NOT NULL,
    begun_at TEXT NOT NULL
) STRICT;
CREATE TABLE "visits" (
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
    closed_at TEXT, look_again_on TEXT, uid TEXT,
    CHECK ((state = 'closed') = (verdict IS NOT NULL))
) STRICT;
INSERT INTO "visits" VALUES(1,1,'open','{"why_now":"","temperature_c":null,"humidity_percent":null,"camera_c":null,"moving_air":null,"surface":null,"room_clean":null,"power":null,"battery_percent":null,"mains":null,"mirror_up":null,"shot_at_f":null,"experience":null,"asks_for":null,"job_on":null,"photos_waiting":null,"observed":[],"schools":{"act_on":null,"check":null,"air":null,"gas_can":null,"brush":null,"contact_order":null,"lift_area":null,"stroke":null,"swab_width":null,"fluid":null,"contact_by":null,"damp_air":null,"pad_on_finger":null,"edges_by_face":null,"files_first":null}}',1,NULL,'',NULL,NULL,NULL,3,'2026-12-01T15:47:19.923+00:00',NULL,NULL,'2961c6301f99b45683afa3175b36173c');
CREATE TABLE watched (
    id INTEGER PRIMARY KEY,
    path TEXT NOT NULL UNIQUE,
    body_id INTEGER REFERENCES bodies (id) ON DELETE CASCADE
) STRICT;
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
CREATE INDEX moves_of_trail ON stock_moves (trail_id);
CREATE INDEX moves_of_visit ON stock_moves (visit_id);
CREATE INDEX bookings_of_body ON booking_bodies (body_id);
CREATE INDEX maps_fit ON maps (frame_id) WHERE fit = 1;
CREATE INDEX comparisons_after ON comparisons (after_id);
CREATE UNIQUE INDEX one_open_visit ON visits (body_id) WHERE state = 'open';
CREATE INDEX visits_of_body ON visits (body_id, opened_at);
CREATE INDEX trail_of_visit ON trail (visit_id, id);
CREATE INDEX trail_of_frame ON trail (frame_id);
CREATE INDEX series_of_member ON series (member_id);
CREATE INDEX suits_of_body ON kit_suits (body_id);
CREATE INDEX moves_of_kit ON stock_moves (kit_id, change);
CREATE INDEX moves_of_body ON stock_moves (body_id);
CREATE INDEX moves_used ON stock_moves (at, body_id, visit_id, change, unit_price)
    WHERE why = 'used';
CREATE INDEX bookings_by_day ON bookings (starts_on);
CREATE INDEX jobs_open ON jobs (state) WHERE state IN ('queued', 'running');
CREATE INDEX jobs_next ON jobs ((kind = 'demo'), (kind = 'picture'), id) WHERE state = 'queued';
CREATE UNIQUE INDEX one_open_job ON jobs (frame_id)
    WHERE frame_id IS NOT NULL AND state IN ('queued', 'running');
CREATE INDEX jobs_of_frame ON jobs (frame_id);
CREATE INDEX jobs_of_visit ON jobs (visit_id);
CREATE INDEX requests_by_day ON requests (at);
CREATE INDEX witnesses_of_body ON witnesses (body_id);
CREATE INDEX picture_sets_of_body ON picture_sets (body_id);
CREATE INDEX retests_of_visit ON retests (visit_id);
CREATE INDEX exposures_of_body ON exposures (body_id, on_day);
CREATE INDEX maps_camera ON maps (camera) WHERE camera IS NOT NULL;
CREATE INDEX maps_listed ON maps (frame_id, fit, spot_count, taken_at);
CREATE INDEX links_of_visit ON links (visit_id);
CREATE TRIGGER stock_in AFTER INSERT ON stock_moves BEGIN
    UPDATE kit SET there = (SELECT sum(change) FROM stock_moves m WHERE m.kit_id = kit.id)
    WHERE id = new.kit_id;
END;
CREATE TRIGGER stock_out AFTER DELETE ON stock_moves BEGIN
    UPDATE kit SET there = (SELECT sum(change) FROM stock_moves m WHERE m.kit_id = kit.id)
    WHERE id = old.kit_id;
END;
CREATE TRIGGER stock_changed AFTER UPDATE OF change, kit_id ON stock_moves BEGIN
    UPDATE kit SET there = (SELECT sum(change) FROM stock_moves m WHERE m.kit_id = kit.id)
    WHERE id IN (old.kit_id, new.kit_id);
END;
CREATE UNIQUE INDEX bodies_uid ON bodies (uid);
CREATE TRIGGER bodies_named AFTER INSERT ON bodies WHEN new.uid IS NULL BEGIN
    UPDATE bodies SET uid = lower(hex(randomblob(16))) WHERE id = new.id;
END;
CREATE UNIQUE INDEX visits_uid ON visits (uid);
CREATE TRIGGER visits_named AFTER INSERT ON visits WHEN new.uid IS NULL BEGIN
    UPDATE visits SET uid = lower(hex(randomblob(16))) WHERE id = new.id;
END;
CREATE UNIQUE INDEX trail_uid ON trail (uid);
CREATE TRIGGER trail_named AFTER INSERT ON trail WHEN new.uid IS NULL BEGIN
    UPDATE trail SET uid = lower(hex(randomblob(16))) WHERE id = new.id;
END;
CREATE UNIQUE INDEX kit_uid ON kit (uid);
CREATE TRIGGER kit_named AFTER INSERT ON kit WHEN new.uid IS NULL BEGIN
    UPDATE kit SET uid = lower(hex(randomblob(16))) WHERE id = new.id;
END;
CREATE UNIQUE INDEX stock_moves_uid ON stock_moves (uid);
CREATE TRIGGER stock_moves_named AFTER INSERT ON stock_moves WHEN new.uid IS NULL BEGIN
    UPDATE stock_moves SET uid = lower(hex(randomblob(16))) WHERE id = new.id;
END;
CREATE UNIQUE INDEX bookings_uid ON bookings (uid);
CREATE TRIGGER bookings_named AFTER INSERT ON bookings WHEN new.uid IS NULL BEGIN
    UPDATE bookings SET uid = lower(hex(randomblob(16))) WHERE id = new.id;
END;
CREATE UNIQUE INDEX exposures_uid ON exposures (uid);
CREATE TRIGGER exposures_named AFTER INSERT ON exposures WHEN new.uid IS NULL BEGIN
    UPDATE exposures SET uid = lower(hex(randomblob(16))) WHERE id = new.id;
END;
CREATE INDEX frames_found ON frames (found);
CREATE INDEX visits_opened ON visits (opened_at, id);
CREATE INDEX practice_of ON practice (exercise, topic);
DELETE FROM "sqlite_sequence";
INSERT INTO "sqlite_sequence" VALUES('frames',1);
INSERT INTO "sqlite_sequence" VALUES('bodies',1);
INSERT INTO "sqlite_sequence" VALUES('visits',1);
INSERT INTO "sqlite_sequence" VALUES('trail',2);
INSERT INTO "sqlite_sequence" VALUES('kit',0);
INSERT INTO "sqlite_sequence" VALUES('bookings',0);
INSERT INTO "sqlite_sequence" VALUES('jobs',1);
INSERT INTO "sqlite_sequence" VALUES('practice',0);
COMMIT;

BEGIN TRANSACTION;
CREATE TABLE bench_bodies (
    body_id INTEGER PRIMARY KEY REFERENCES bodies (id) ON DELETE CASCADE,
    camera_json TEXT NOT NULL,
    dust_json TEXT NOT NULL,
    turn INTEGER NOT NULL DEFAULT 0
) STRICT;
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
INSERT INTO "bodies" VALUES(1,'Tarn Meridian S',NULL,'mirrorless',23.5,15.6,NULL,NULL,'',0,0,'2026-02-31',NULL,'8,16','',NULL,NULL,'own','2026-11-26T15:45:59.348+00:00');
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
INSERT INTO "frames" VALUES(1,'4ee3137d255aa72b933a19eafd4101aeede89d7555618993653e19bf93ef6125','old.jpg','upload','',NULL,NULL,'2026-11-26T15:45:55.878+00:00');
CREATE TABLE "jobs" (
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
INSERT INTO "jobs" VALUES(1,'map',1,NULL,'old.jpg','{}','done',1.0,'measuring',NULL,'2026-11-26T15:45:55.878+00:00','2026-11-26T15:45:58.691+00:00');
INSERT INTO "jobs" VALUES(2,'map',1,NULL,'old.jpg','{}','running',0.0,'',NULL,'2026-11-25T10:00:00.000+00:00',NULL);
INSERT INTO "jobs" VALUES(3,'map',1,NULL,'old.jpg','{}','queued',0.0,'',NULL,'2026-11-25T10:00:01.000+00:00',NULL);
CREATE TABLE kit (
    id INTEGER PRIMARY KEY,
    item_json TEXT NOT NULL,
    note TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE TABLE maps (
    frame_id INTEGER PRIMARY KEY REFERENCES frames (id) ON DELETE CASCADE,
    map_json TEXT NOT NULL,
    made_by TEXT NOT NULL,
    made_at TEXT NOT NULL
) STRICT;
INSERT INTO "maps" VALUES(1,'{"schema":"neatpatch.map/1","frames":[{"path":"old.jpg","sha256":"4ee3137d255aa72b933a19eafd4101aeede89d7555618993653e19bf93ef6125","format":"JPEG","width_px":1500,"height_px":996,"orientation":1,"f_number":22.0,"iso":100,"exposure_s":1.3,"focal_length_mm":85.0,"camera":"Fennick Optical Judge 24","taken_at":"2026-09-14T10:00:00","pitch_um":null,"sensor_mm":null,"notes":[]}],"fit":true,"checks":[{"code":"sensor_size_unknown","level":"note","measured":null,"limit":null,"message":"The sensor''s size is not known, so lengths are given in pixels only.","remedy":"Give the sensor''s width and height in millimetres."},{"code":"too_few_pixels","level":"note","measured":1.494,"limit":1.0,"message":"The picture has only 1.5 million pixels; it may have been made smaller.","remedy":"Use the full-size file from the camera."},{"code":"aperture_too_wide","level":"ok","measured":22.0,"limit":16.0,"message":"f/22 shows small dust.","remedy":""},{"code":"too_bright","level":"ok","measured":0.0,"limit":0.01,"message":"No tones are clipped.","remedy":""},{"code":"too_dark","level":"ok","measured":0.3448,"limit":0.012,"message":"The exposure is bright enough.","remedy":""},{"code":"grainy","level":"ok","measured":0.01474,"limit":0.05,"message":"Noise is 1.5 % per pixel.","remedy":""},{"code":"uneven","level":"ok","measured":1.647,"limit":5.0,"message":"The light is even enough.","remedy":""},{"code":"target_in_focus","level":"ok","measured":0.0004955,"limit":0.01,"message":"The target is smooth.","remedy":""}],"optics":{"height_mm":null,"height_source":"assumed","blur_um":null,"blur_px":4.101,"softness_px":0.966},"spots":[{"id":"s1","x_px":562.376,"y_px":113.443,"x_mm":null,"y_mm":null,"zone":"top","kind":"speck","site":"sensor","snr":43.3,"depth":0.19948,"outer_px":6.61,"outer_um":null,"length_um":null,"particle_um":null,"height_mm":null,"shows_from_f":6.3,"seen_in":1,"angle_deg":null,"width_px":null,"particle_px":2.1824,"blur_px":4.101},{"id":"s2","x_px":298.902,"y_px":803.912,"x_mm":null,"y_mm":null,"zone":"bottom left","kind":"speck","site":"sensor","snr":32.5,"depth":0.14916,"outer_px":6.3,"outer_um":null,"length_um":null,"particle_um":null,"height_mm":null,"shows_from_f":8.0,"seen_in":1,"angle_deg":null,"width_px":null,"particle_px":1.995,"blur_px":4.101},{"id":"s3","x_px":1354.745,"y_px":155.985,"x_mm":null,"y_mm":null,"zone":"top right","kind":"speck","site":"sensor","snr":23.2,"depth":0.10098,"outer_px":6.04,"outer_um":null,"length_um":null,"particle_um":null,"height_mm":null,"shows_from_f":10.0,"seen_in":1,"angle_deg":null,"width_px":null,"particle_px":1.7618,"blur_px":4.101},{"id":"s4","x_px":494.927,"y_px":973.502,"x_mm":null,"y_mm":null,"zone":"bottom left","kind":"speck","site":"sensor","snr":18.0,"depth":0.08186,"outer_px":5.63,"outer_um":null,"length_um":null,"particle_um":null,"height_mm":null,"shows_from_f":11.0,"seen_in":1,"angle_deg":null,"width_px":null,"particle_px":1.3919,"blur_px":4.101}],"summary":{"count":4,"relevant":4,"by_kind":{"speck":4},"covered_ppm":79.7}}','0.1.0','2026-11-26T15:45:58.687+00:00');
CREATE TABLE migrations (name TEXT PRIMARY KEY, applied_at TEXT NOT NULL) STRICT;
INSERT INTO "migrations" VALUES('0001_frames','2026-11-26T15:45:55.683+00:00');
INSERT INTO "migrations" VALUES('0002_visits','2026-11-26T15:45:55.694+00:00');
CREATE TABLE originals (
    sha256 TEXT PRIMARY KEY CHECK (length(sha256) = 64),
    bytes INTEGER NOT NULL CHECK (bytes > 0),
    stored_at TEXT NOT NULL
) STRICT;
INSERT INTO "originals" VALUES('4ee3137d255aa72b933a19eafd4101aeede89d7555618993653e19bf93ef6125',117225,'2026-11-26T15:45:55.878+00:00');
CREATE TABLE series (
    lead_id INTEGER NOT NULL REFERENCES frames (id) ON DELETE CASCADE,
    member_id INTEGER NOT NULL REFERENCES frames (id) ON DELETE CASCADE,
    PRIMARY KEY (lead_id, member_id),
    CHECK (lead_id <> member_id)
) STRICT;
CREATE TABLE settings (
    key TEXT PRIMARY KEY,
    value TEXT NOT NULL
) STRICT;
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
INSERT INTO "trail" VALUES(1,1,1,NULL,'{}','',0,'2026-11-26T15:45:59.365+00:00');
INSERT INTO "trail" VALUES(2,1,NULL,'air','{"opening":"down","puffs":12}','tested',0,'2026-11-26T15:45:59.391+00:00');
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
INSERT INTO "visits" VALUES(1,1,'open','{"why_now":"","temperature_c":null,"humidity_percent":null,"moving_air":null,"surface":null,"room_clean":null,"power":null,"battery_percent":null,"mains":null,"mirror_up":null,"experience":null,"asks_for":null,"job_on":"2026-02-30","photos_waiting":null,"observed":[],"schools":{"act_on":null,"check":null,"air":null,"gas_can":null,"brush":null,"contact_order":null,"lift_area":null,"stroke":null,"swab_width":null,"fluid":null,"contact_by":null,"damp_air":null,"pad_on_finger":null,"files_first":null}}',NULL,'',NULL,4,4,3,'2026-11-26T15:45:59.365+00:00',NULL);
CREATE UNIQUE INDEX one_open_visit ON visits (body_id) WHERE state = 'open';
CREATE INDEX visits_of_body ON visits (body_id, opened_at);
CREATE INDEX trail_of_visit ON trail (visit_id, id);
CREATE INDEX trail_of_frame ON trail (frame_id);
CREATE INDEX jobs_open ON jobs (state) WHERE state IN ('queued', 'running');
CREATE INDEX jobs_of_frame ON jobs (frame_id);
CREATE INDEX jobs_of_visit ON jobs (visit_id);
COMMIT;

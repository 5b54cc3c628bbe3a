BEGIN TRANSACTION;
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
INSERT INTO "frames" VALUES(1,'63d23b8c59f542632dee56b415e151de4e638c8712a9469b0af4df2e272a31e6','old.jpg','upload','',NULL,NULL,'2026-11-26T15:45:49.830+00:00');
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
INSERT INTO "jobs" VALUES(1,'map',1,'old.jpg','done',1.0,'measuring',NULL,'2026-11-26T15:45:49.830+00:00','2026-11-26T15:45:51.406+00:00');
CREATE TABLE maps (
    frame_id INTEGER PRIMARY KEY REFERENCES frames (id) ON DELETE CASCADE,
    map_json TEXT NOT NULL,
    made_by TEXT NOT NULL,
    made_at TEXT NOT NULL
) STRICT;
INSERT INTO "maps" VALUES(1,'{"schema":"neatpatch.map/1","frames":[{"path":"old.jpg","sha256":"63d23b8c59f542632dee56b415e151de4e638c8712a9469b0af4df2e272a31e6","format":"JPEG","width_px":1500,"height_px":996,"orientation":1,"f_number":22.0,"iso":100,"exposure_s":1.3,"focal_length_mm":85.0,"camera":"Fennick Optical Judge 24","taken_at":"2026-09-14T10:00:00","pitch_um":null,"sensor_mm":null,"notes":[]}],"fit":true,"checks":[{"code":"sensor_size_unknown","level":"note","measured":null,"limit":null,"message":"The sensor''s size is not known, so lengths are given in pixels only.","remedy":"Give the sensor''s width and height in millimetres."},{"code":"too_few_pixels","level":"note","measured":1.494,"limit":1.0,"message":"The picture has only 1.5 million pixels; it may have been made smaller.","remedy":"Use the full-size file from the camera."},{"code":"aperture_too_wide","level":"ok","measured":22.0,"limit":16.0,"message":"f/22 shows small dust.","remedy":""},{"code":"too_bright","level":"ok","measured":0.0,"limit":0.01,"message":"No tones are clipped.","remedy":""},{"code":"too_dark","level":"ok","measured":0.3369,"limit":0.012,"message":"The exposure is bright enough.","remedy":""},{"code":"grainy","level":"ok","measured":0.01497,"limit":0.05,"message":"Noise is 1.5 % per pixel.","remedy":""},{"code":"uneven","level":"ok","measured":1.494,"limit":5.0,"message":"The light is even enough.","remedy":""},{"code":"target_in_focus","level":"ok","measured":0.0005476,"limit":0.01,"message":"The target is smooth.","remedy":""}],"optics":{"height_mm":null,"height_source":"assumed","blur_um":null,"blur_px":3.994},"spots":[{"id":"s1","x_px":562.36,"y_px":113.435,"x_mm":null,"y_mm":null,"zone":"top","kind":"speck","site":"sensor","snr":45.1,"depth":0.21261,"outer_px":6.54,"outer_um":null,"length_um":null,"particle_um":null,"height_mm":null,"shows_from_f":6.3,"seen_in":1,"angle_deg":null,"width_px":null},{"id":"s2","x_px":298.854,"y_px":803.789,"x_mm":null,"y_mm":null,"zone":"bottom left","kind":"speck","site":"sensor","snr":31.4,"depth":0.14683,"outer_px":6.15,"outer_um":null,"length_um":null,"particle_um":null,"height_mm":null,"shows_from_f":8.0,"seen_in":1,"angle_deg":null,"width_px":null},{"id":"s3","x_px":1354.688,"y_px":156.031,"x_mm":null,"y_mm":null,"zone":"top right","kind":"speck","site":"sensor","snr":24.3,"depth":0.1099,"outer_px":5.92,"outer_um":null,"length_um":null,"particle_um":null,"height_mm":null,"shows_from_f":9.0,"seen_in":1,"angle_deg":null,"width_px":null},{"id":"s4","x_px":495.14,"y_px":973.776,"x_mm":null,"y_mm":null,"zone":"bottom left","kind":"speck","site":"sensor","snr":17.9,"depth":0.0859,"outer_px":5.52,"outer_um":null,"length_um":null,"particle_um":null,"height_mm":null,"shows_from_f":10.0,"seen_in":1,"angle_deg":null,"width_px":null}],"summary":{"count":4,"relevant":4,"by_kind":{"speck":4},"covered_ppm":76.8}}','0.1.0','2026-11-26T15:45:51.400+00:00');
CREATE TABLE migrations (name TEXT PRIMARY KEY, applied_at TEXT NOT NULL) STRICT;
INSERT INTO "migrations" VALUES('0001_frames','2026-11-26T15:45:49.749+00:00');
CREATE TABLE originals (
    sha256 TEXT PRIMARY KEY CHECK (length(sha256) = 64),
    bytes INTEGER NOT NULL CHECK (bytes > 0),
    stored_at TEXT NOT NULL
) STRICT;
INSERT INTO "originals" VALUES('63d23b8c59f542632dee56b415e151de4e638c8712a9469b0af4df2e272a31e6',117239,'2026-11-26T15:45:49.830+00:00');
CREATE TABLE settings (
    key TEXT PRIMARY KEY,
    value TEXT NOT NULL
) STRICT;
CREATE INDEX jobs_open ON jobs (state) WHERE state IN ('queued', 'running');
CREATE INDEX jobs_of_frame ON jobs (frame_id);
COMMIT;

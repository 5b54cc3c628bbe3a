-- Frames that look for their camera: by recognition, or the one named by whoever sent them.
CREATE TABLE seekers (
    frame_id INTEGER PRIMARY KEY REFERENCES frames (id) ON DELETE CASCADE,
    body_id INTEGER REFERENCES bodies (id) ON DELETE SET NULL
) STRICT;

-- What the file tells of its camera beside its name, as JSON.
ALTER TABLE maps ADD COLUMN clues_json TEXT NOT NULL DEFAULT '{}';

-- What was taken off a trail can be put back: what its step had taken of the kit, as JSON.
ALTER TABLE trail ADD COLUMN removed_json TEXT;

-- Where the hands stand in a step: the visit's, whichever device shows it.
CREATE TABLE hands (
    visit_id INTEGER PRIMARY KEY REFERENCES visits (id) ON DELETE CASCADE,
    step TEXT NOT NULL,
    position_json TEXT NOT NULL,
    version INTEGER NOT NULL DEFAULT 1,
    at REAL NOT NULL
) STRICT;

-- Folders that are watched for new frames; body_id: whose they are, NULL to recognise each.
CREATE TABLE watched (
    id INTEGER PRIMARY KEY,
    path TEXT NOT NULL UNIQUE,
    body_id INTEGER REFERENCES bodies (id) ON DELETE CASCADE
) STRICT;

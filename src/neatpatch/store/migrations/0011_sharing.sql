-- Devices that were let in, and links to one report. Of a token only its SHA-256 is kept. visit_id: the
-- report a link shows, null for devices.
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

-- Who logged a step, where a paired device did.
ALTER TABLE trail ADD COLUMN who TEXT NOT NULL DEFAULT '';

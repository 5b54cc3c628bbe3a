-- Frames that were removed, with every row that went with them, to be put back.
CREATE TABLE removed_frames (
    frame_id INTEGER PRIMARY KEY,
    sha256 TEXT NOT NULL,
    name TEXT NOT NULL,
    removed_at TEXT NOT NULL,
    rows_json TEXT NOT NULL
) STRICT;

-- Folders of ordinary pictures of one body: patched by a map, or searched for when dust came.
-- work: what is wanted; map_json: the map as it was chosen; veto_json: ids of spots left alone.
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
CREATE INDEX picture_sets_of_body ON picture_sets (body_id);

-- The pictures of a set, by number; path: below the set's folder. looked_json: how the map lies on
-- it; done_json: what was written. leave: not to be patched; veto_json: spots left in it.
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

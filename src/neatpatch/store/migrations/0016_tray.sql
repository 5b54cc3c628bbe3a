-- How one model of a fixed-lens compact comes apart; kept for the next body of that model.
CREATE TABLE tray_plans (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    model TEXT NOT NULL UNIQUE,
    plan_json TEXT NOT NULL,
    changed_at TEXT NOT NULL
) STRICT;

-- A camera on the tray: the plan as it is for this body, and what was done, in order.
CREATE TABLE trays (
    visit_id INTEGER PRIMARY KEY REFERENCES visits (id) ON DELETE CASCADE,
    plan_json TEXT NOT NULL,
    done_json TEXT NOT NULL,
    begun_at TEXT NOT NULL
) STRICT;

-- Photographs of its stages, as the page made them smaller.
CREATE TABLE tray_photos (
    visit_id INTEGER NOT NULL REFERENCES visits (id) ON DELETE CASCADE,
    step_id TEXT NOT NULL,
    number INTEGER NOT NULL,
    jpeg BLOB NOT NULL,
    taken_at TEXT NOT NULL,
    PRIMARY KEY (visit_id, step_id, number)
) STRICT;

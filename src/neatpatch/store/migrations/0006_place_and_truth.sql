-- The coarse light of a frame: whether the camera moved between two frames shows in it.
CREATE TABLE backdrops (
    frame_id INTEGER PRIMARY KEY REFERENCES frames (id) ON DELETE CASCADE,
    cells BLOB NOT NULL
) STRICT;

-- The body's own truth, as its owner and its handbook tell it.
ALTER TABLE bodies ADD COLUMN closes_when_off INTEGER CHECK (closes_when_off IN (0, 1));
ALTER TABLE bodies ADD COLUMN modifier_allows INTEGER CHECK (modifier_allows IN (0, 1));
ALTER TABLE bodies ADD COLUMN serial TEXT NOT NULL DEFAULT '';
ALTER TABLE bodies ADD COLUMN shake_note TEXT NOT NULL DEFAULT '';
ALTER TABLE bodies ADD COLUMN cleaning_note TEXT NOT NULL DEFAULT '';
ALTER TABLE bodies ADD COLUMN latch_note TEXT NOT NULL DEFAULT '';
ALTER TABLE bodies ADD COLUMN no_guarantee INTEGER NOT NULL DEFAULT 0 CHECK (no_guarantee IN (0, 1));
ALTER TABLE bodies ADD COLUMN serviced_on TEXT;

-- When a closed visit says to look again.
ALTER TABLE visits ADD COLUMN look_again_on TEXT;

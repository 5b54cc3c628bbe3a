-- What became of a camera's spots from one fit frame to the next, also from visit to visit: fates holds
-- [spot before, spot here, fate] of each. before_id is null where nothing lays the frame on one before.
CREATE TABLE links (
    entry_id INTEGER PRIMARY KEY REFERENCES trail (id) ON DELETE CASCADE,
    visit_id INTEGER NOT NULL REFERENCES visits (id) ON DELETE CASCADE,
    frame_id INTEGER NOT NULL,
    before_id INTEGER,
    fates TEXT NOT NULL
) STRICT;
CREATE INDEX links_of_visit ON links (visit_id);

-- A visit is read again when the one before it changes, too. All of them are read once more for links.
ALTER TABLE recorded ADD COLUMN before_visit INTEGER;
ALTER TABLE recorded ADD COLUMN before_version INTEGER;
DELETE FROM recorded;

-- Frames are found by words without reading their hashes.
CREATE INDEX frames_words ON frames (name, note);

-- What is left of a thing is the sum of its moves; kept beside it, so that no list adds up years of them.
ALTER TABLE kit ADD COLUMN there REAL;
UPDATE kit SET there = (SELECT sum(change) FROM stock_moves m WHERE m.kit_id = kit.id);
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

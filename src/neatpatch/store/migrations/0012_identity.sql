-- Names that stay the same across archives, so that one can be merged into another folder without
-- doubles. Rows that were here before are named after the moment the folder was made, which its copies
-- share.
ALTER TABLE bodies ADD COLUMN uid TEXT;
UPDATE bodies SET uid = (SELECT min(applied_at) FROM migrations) || '-b' || id;
CREATE UNIQUE INDEX bodies_uid ON bodies (uid);
CREATE TRIGGER bodies_named AFTER INSERT ON bodies WHEN new.uid IS NULL BEGIN
    UPDATE bodies SET uid = lower(hex(randomblob(16))) WHERE id = new.id;
END;
ALTER TABLE visits ADD COLUMN uid TEXT;
UPDATE visits SET uid = (SELECT min(applied_at) FROM migrations) || '-v' || id;
CREATE UNIQUE INDEX visits_uid ON visits (uid);
CREATE TRIGGER visits_named AFTER INSERT ON visits WHEN new.uid IS NULL BEGIN
    UPDATE visits SET uid = lower(hex(randomblob(16))) WHERE id = new.id;
END;
ALTER TABLE trail ADD COLUMN uid TEXT;
UPDATE trail SET uid = (SELECT min(applied_at) FROM migrations) || '-t' || id;
CREATE UNIQUE INDEX trail_uid ON trail (uid);
CREATE TRIGGER trail_named AFTER INSERT ON trail WHEN new.uid IS NULL BEGIN
    UPDATE trail SET uid = lower(hex(randomblob(16))) WHERE id = new.id;
END;
ALTER TABLE kit ADD COLUMN uid TEXT;
UPDATE kit SET uid = (SELECT min(applied_at) FROM migrations) || '-k' || id;
CREATE UNIQUE INDEX kit_uid ON kit (uid);
CREATE TRIGGER kit_named AFTER INSERT ON kit WHEN new.uid IS NULL BEGIN
    UPDATE kit SET uid = lower(hex(randomblob(16))) WHERE id = new.id;
END;
ALTER TABLE stock_moves ADD COLUMN uid TEXT;
UPDATE stock_moves SET uid = (SELECT min(applied_at) FROM migrations) || '-m' || id;
CREATE UNIQUE INDEX stock_moves_uid ON stock_moves (uid);
CREATE TRIGGER stock_moves_named AFTER INSERT ON stock_moves WHEN new.uid IS NULL BEGIN
    UPDATE stock_moves SET uid = lower(hex(randomblob(16))) WHERE id = new.id;
END;
ALTER TABLE bookings ADD COLUMN uid TEXT;
UPDATE bookings SET uid = (SELECT min(applied_at) FROM migrations) || '-j' || id;
CREATE UNIQUE INDEX bookings_uid ON bookings (uid);
CREATE TRIGGER bookings_named AFTER INSERT ON bookings WHEN new.uid IS NULL BEGIN
    UPDATE bookings SET uid = lower(hex(randomblob(16))) WHERE id = new.id;
END;
ALTER TABLE exposures ADD COLUMN uid TEXT;
UPDATE exposures SET uid = (SELECT min(applied_at) FROM migrations) || '-e' || id;
CREATE UNIQUE INDEX exposures_uid ON exposures (uid);
CREATE TRIGGER exposures_named AFTER INSERT ON exposures WHEN new.uid IS NULL BEGIN
    UPDATE exposures SET uid = lower(hex(randomblob(16))) WHERE id = new.id;
END;

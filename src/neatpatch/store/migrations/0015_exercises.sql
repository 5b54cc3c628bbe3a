-- More is practised: frames are read, a hand is led, a whole clean is done.
CREATE TABLE practised (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    exercise TEXT NOT NULL CHECK (exercise IN ('frames', 'places', 'moves', 'hand', 'clean')),
    seed INTEGER NOT NULL,
    topic TEXT NOT NULL,
    is_right INTEGER NOT NULL CHECK (is_right IN (0, 1)),
    is_unsafe INTEGER NOT NULL CHECK (is_unsafe IN (0, 1)),
    error_mm REAL,
    seconds REAL NOT NULL,
    at TEXT NOT NULL
) STRICT;
INSERT INTO practised SELECT * FROM practice;
DROP TABLE practice;
ALTER TABLE practised RENAME TO practice;
CREATE INDEX practice_of ON practice (exercise, topic);

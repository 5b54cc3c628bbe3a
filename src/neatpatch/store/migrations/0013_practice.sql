-- What was practised: by exercise and topic, with the seed it can be repeated by. Apart from the record
-- and the stock in every way.
CREATE TABLE practice (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    exercise TEXT NOT NULL CHECK (exercise IN ('moves', 'places')),
    seed INTEGER NOT NULL,
    topic TEXT NOT NULL,
    is_right INTEGER NOT NULL CHECK (is_right IN (0, 1)),
    is_unsafe INTEGER NOT NULL CHECK (is_unsafe IN (0, 1)),
    error_mm REAL,
    seconds REAL NOT NULL,
    at TEXT NOT NULL
) STRICT;
CREATE INDEX practice_of ON practice (exercise, topic);

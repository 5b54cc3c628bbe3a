-- Why a frame has nothing in common with the one before it, by the user's word.
ALTER TABLE trail ADD COLUMN explained TEXT NOT NULL DEFAULT ''
    CHECK (explained IN ('', 'session', 'target'));

-- The aperture of a frame whose file has none recorded, by the user's word, and the one its map was
-- made with.
ALTER TABLE frames ADD COLUMN f_number REAL CHECK (f_number BETWEEN 0.7 AND 128);
ALTER TABLE maps ADD COLUMN f_number REAL;
UPDATE maps SET f_number = json_extract(map_json, '$.frames[0].f_number');

-- A name of this library, which its backups carry: several machines may keep theirs in one folder.
INSERT INTO settings (key, value) VALUES ('library_id', lower(hex(randomblob(4))));

-- Frames are found by words in one scan of a narrow index, capitals aside.
ALTER TABLE frames ADD COLUMN found TEXT GENERATED ALWAYS AS (lower(name || char(10) || note)) VIRTUAL;
DROP INDEX frames_words;
CREATE INDEX frames_found ON frames (found);

-- The visit begun last is found without reading all of them.
CREATE INDEX visits_opened ON visits (opened_at, id);

-- Levels along the sound, from which those of any excerpt follow.
ALTER TABLE surveys ADD COLUMN levels TEXT;

CREATE TABLE recipes (
    id TEXT PRIMARY KEY,
    name TEXT NOT NULL UNIQUE COLLATE NOCASE,
    document TEXT NOT NULL,
    changed_at REAL NOT NULL
) STRICT;

-- What a recipe was before each change, so that the last one can be undone; nothing where the change made it.
CREATE TABLE recipe_changes (
    number INTEGER PRIMARY KEY AUTOINCREMENT,
    recipe_id TEXT NOT NULL,
    what TEXT NOT NULL,
    before TEXT,
    changed_at REAL NOT NULL
) STRICT;

-- Plans know more than they did, so what was keyed by or made from the old ones cannot be used.
DELETE FROM rehearsals;

DELETE FROM perfect_uploads;

UPDATE jobs SET state = 'cancelled' WHERE state IN ('waiting', 'running') AND kind IN ('curve', 'pack');

-- Sheets of one's own and newer versions of those that ship; every version stays.
CREATE TABLE sheets (
    sheet_id TEXT NOT NULL,
    version INTEGER NOT NULL,
    document TEXT NOT NULL,
    kept_at REAL NOT NULL,
    PRIMARY KEY (sheet_id, version)
) STRICT;

CREATE TABLE removed_sheets (
    sheet_id TEXT PRIMARY KEY
) STRICT;

-- Which destinations a master's lanes show, in order; a master without a row takes the usual ones.
CREATE TABLE lanes (
    master_id TEXT PRIMARY KEY REFERENCES masters (id) ON DELETE CASCADE,
    destinations TEXT NOT NULL
) STRICT;

-- The version of the sheet that a parcel was planned with.
ALTER TABLE choices ADD COLUMN sheet_version INTEGER;

ALTER TABLE speeds ADD COLUMN codec TEXT NOT NULL DEFAULT 'h264';

-- Plans know more than they did, so what was keyed by or made from the old ones cannot be used.
DELETE FROM rehearsals;

DELETE FROM perfect_uploads;

UPDATE jobs SET state = 'cancelled' WHERE state IN ('waiting', 'running') AND kind IN ('curve', 'pack');

-- A parcel of its own: an id, an excerpt, a destination, choices, a name and a place among the lanes.
CREATE TABLE parcels (
    id TEXT PRIMARY KEY,
    master_id TEXT NOT NULL REFERENCES masters (id) ON DELETE CASCADE,
    destination_id TEXT NOT NULL,
    sheet_version INTEGER,
    in_s TEXT,
    out_s TEXT,
    choices TEXT NOT NULL,
    name TEXT NOT NULL DEFAULT '',
    place INTEGER NOT NULL,
    sibling_of TEXT,
    shown INTEGER NOT NULL DEFAULT 1,
    CHECK ((in_s IS NULL) = (out_s IS NULL))
) STRICT;

CREATE INDEX parcels_by_master ON parcels (master_id, place);

-- Whether a master's first lanes were made; its parcels are its own from then on, even when there are none.
ALTER TABLE masters ADD COLUMN has_lanes INTEGER NOT NULL DEFAULT 0;

-- Masters whose lanes were never chosen showed the usual ones.
INSERT INTO lanes (master_id, destinations)
SELECT id, '["orrery-wide","sprigg-upright","kitewall-square","fernpost-reel"]' FROM masters
WHERE id NOT IN (SELECT master_id FROM lanes);

INSERT INTO parcels (id, master_id, destination_id, sheet_version, in_s, out_s, choices, place)
SELECT lower(hex(randomblob(6))), lanes.master_id, lane.value, choices.sheet_version, excerpts.in_s, excerpts.out_s,
    coalesce(choices.choices, '{}'), lane.key
FROM lanes JOIN json_each(lanes.destinations) AS lane JOIN masters ON masters.id = lanes.master_id
LEFT JOIN choices ON choices.master_id = lanes.master_id AND choices.destination_id = lane.value
LEFT JOIN excerpts ON excerpts.master_id = lanes.master_id AND excerpts.number = masters.excerpt_number;

-- Choices for destinations that are not among the lanes are put away, not forgotten.
INSERT INTO parcels (id, master_id, destination_id, sheet_version, in_s, out_s, choices, place, shown)
SELECT lower(hex(randomblob(6))), choices.master_id, choices.destination_id, choices.sheet_version, excerpts.in_s, excerpts.out_s,
    choices.choices, 1000, 0
FROM choices JOIN masters ON masters.id = choices.master_id
LEFT JOIN excerpts ON excerpts.master_id = choices.master_id AND excerpts.number = masters.excerpt_number
WHERE NOT EXISTS (
    SELECT 1 FROM parcels WHERE parcels.master_id = choices.master_id AND parcels.destination_id = choices.destination_id
);

UPDATE masters SET has_lanes = 1;

DROP TABLE choices;

DROP TABLE lanes;

CREATE TABLE jobs_new (
    id TEXT PRIMARY KEY,
    kind TEXT NOT NULL CHECK (kind IN ('inspect', 'strip', 'check', 'listen', 'rehearse', 'pack')),
    state TEXT NOT NULL CHECK (state IN ('waiting', 'running', 'done', 'failed', 'cancelled')),
    title TEXT NOT NULL,
    master_id TEXT REFERENCES masters (id) ON DELETE CASCADE,
    parcel_id TEXT,
    key TEXT,
    task TEXT NOT NULL,
    created_at REAL NOT NULL,
    started_at REAL,
    ended_at REAL,
    lease_owner TEXT,
    lease_until REAL,
    attempts INTEGER NOT NULL DEFAULT 0,
    cancel_asked INTEGER NOT NULL DEFAULT 0,
    progress TEXT,
    file_name TEXT,
    problem TEXT,
    revision INTEGER NOT NULL
) STRICT;

INSERT INTO jobs_new (
    id, kind, state, title, master_id, parcel_id, key, task, created_at, started_at, ended_at, attempts, cancel_asked, progress,
    file_name, problem, revision
)
SELECT jobs.id, CASE kind WHEN 'curve' THEN 'rehearse' ELSE kind END, state, title, jobs.master_id, parcels.id, NULL, '{}', created_at,
    started_at, ended_at, attempts, cancel_asked, progress, json_extract(result, '$.file_name'), problem, revision
FROM jobs LEFT JOIN parcels ON parcels.master_id = jobs.master_id AND parcels.destination_id = jobs.destination_id;

DROP TABLE jobs;

ALTER TABLE jobs_new RENAME TO jobs;

CREATE INDEX jobs_by_state ON jobs (state, kind, created_at);

-- What waited was told in another form.
UPDATE jobs SET state = 'cancelled', ended_at = created_at, lease_owner = NULL,
    problem = '{"kind":"cancelled","code":"cancelled","what":"This was still waiting when the program was renewed.","todo":"Start it again."}'
WHERE state IN ('waiting', 'running') AND kind IN ('rehearse', 'pack');

DELETE FROM jobs WHERE state IN ('waiting', 'running');

ALTER TABLE receipts ADD COLUMN parcel_id TEXT;

UPDATE receipts SET parcel_id = (
    SELECT id FROM parcels WHERE parcels.master_id = receipts.master_id AND parcels.destination_id = receipts.destination_id LIMIT 1
);

-- Measurements by what they depend on. The old ones were judged by another scale and kept by other keys.
DROP TABLE rehearsals;

DROP TABLE perfect_uploads;

CREATE TABLE measurements (
    kind TEXT NOT NULL CHECK (kind IN ('reel', 'scaled', 'encode', 'handled')),
    key TEXT NOT NULL,
    value TEXT NOT NULL,
    folder TEXT,
    made_at REAL NOT NULL,
    PRIMARY KEY (kind, key)
) STRICT;

-- Which measurements stand at which rate of a survival curve.
CREATE TABLE curve_points (
    curve_key TEXT NOT NULL,
    target_bps INTEGER NOT NULL,
    encode_key TEXT NOT NULL,
    handled_key TEXT,
    PRIMARY KEY (curve_key, target_bps)
) STRICT;

-- Speeds are learned only from encodes that had the machine to themselves; of the old ones nobody knows.
DROP TABLE speeds;

CREATE TABLE speeds (
    id INTEGER PRIMARY KEY,
    codec TEXT NOT NULL,
    effort TEXT NOT NULL,
    rate_control TEXT NOT NULL,
    pixels INTEGER NOT NULL,
    pixels_per_s REAL NOT NULL,
    measured_at REAL NOT NULL
) STRICT;

-- What changed at which revision, so that only who shows it asks again.
CREATE TABLE changes (
    revision INTEGER NOT NULL,
    kind TEXT NOT NULL,
    id TEXT NOT NULL
) STRICT;

CREATE INDEX changes_by_revision ON changes (revision);

ALTER TABLE masters ADD COLUMN content_id TEXT;

UPDATE masters SET content_id = json_extract(facts, '$.content_id') WHERE facts IS NOT NULL;

ALTER TABLE masters ADD COLUMN arriving INTEGER NOT NULL DEFAULT 0;

ALTER TABLE masters ADD COLUMN uploaded INTEGER NOT NULL DEFAULT 0;

ALTER TABLE masters ADD COLUMN removed INTEGER NOT NULL DEFAULT 0;

ALTER TABLE masters ADD COLUMN mending TEXT;

ALTER TABLE masters ADD COLUMN excerpt_number INTEGER;

CREATE TABLE excerpts (
    master_id TEXT NOT NULL REFERENCES masters (id) ON DELETE CASCADE,
    number INTEGER NOT NULL,
    title TEXT NOT NULL,
    in_s TEXT NOT NULL,
    out_s TEXT NOT NULL,
    PRIMARY KEY (master_id, number)
) STRICT;

INSERT INTO excerpts (master_id, number, title, in_s, out_s)
SELECT id, 1, 'Excerpt 1', in_s, out_s FROM masters WHERE in_s IS NOT NULL AND out_s IS NOT NULL;

UPDATE masters SET excerpt_number = 1 WHERE in_s IS NOT NULL AND out_s IS NOT NULL;

ALTER TABLE masters DROP COLUMN in_s;

ALTER TABLE masters DROP COLUMN out_s;

CREATE TABLE surveys (
    content_id TEXT PRIMARY KEY,
    picture TEXT,
    sound TEXT,
    loudness TEXT,
    measured_at REAL NOT NULL
) STRICT;

CREATE TABLE jobs_new (
    id TEXT PRIMARY KEY,
    kind TEXT NOT NULL CHECK (kind IN ('inspect', 'strip', 'check', 'listen', 'curve', 'pack')),
    state TEXT NOT NULL CHECK (state IN ('waiting', 'running', 'done', 'failed', 'cancelled')),
    title TEXT NOT NULL,
    master_id TEXT REFERENCES masters (id) ON DELETE CASCADE,
    destination_id TEXT,
    picture_key TEXT,
    spec TEXT NOT NULL,
    created_at REAL NOT NULL,
    started_at REAL,
    ended_at REAL,
    lease_owner TEXT,
    lease_until REAL,
    attempts INTEGER NOT NULL DEFAULT 0,
    cancel_asked INTEGER NOT NULL DEFAULT 0,
    progress TEXT,
    result TEXT,
    problem TEXT,
    revision INTEGER NOT NULL
) STRICT;

INSERT INTO jobs_new SELECT * FROM jobs;

DROP TABLE jobs;

ALTER TABLE jobs_new RENAME TO jobs;

CREATE INDEX jobs_by_state ON jobs (state, kind, created_at);

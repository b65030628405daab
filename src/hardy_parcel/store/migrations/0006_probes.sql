-- Probing is a job of its own, and a job may be put before others.
CREATE TABLE jobs_new (
    id TEXT PRIMARY KEY,
    kind TEXT NOT NULL CHECK (kind IN ('inspect', 'strip', 'check', 'listen', 'probe', 'rehearse', 'pack')),
    state TEXT NOT NULL CHECK (state IN ('waiting', 'running', 'done', 'failed', 'cancelled')),
    title TEXT NOT NULL,
    master_id TEXT REFERENCES masters (id) ON DELETE CASCADE,
    parcel_id TEXT,
    key TEXT,
    task TEXT NOT NULL,
    rank REAL NOT NULL DEFAULT 0,
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
    id, kind, state, title, master_id, parcel_id, key, task, created_at, started_at, ended_at, lease_owner, lease_until, attempts,
    cancel_asked, progress, file_name, problem, revision
)
SELECT id, kind, state, title, master_id, parcel_id, key, task, created_at, started_at, ended_at, lease_owner, lease_until, attempts,
    cancel_asked, progress, file_name, problem, revision
FROM jobs;

DROP TABLE jobs;

ALTER TABLE jobs_new RENAME TO jobs;

CREATE INDEX jobs_by_state ON jobs (state, kind, rank, created_at);

CREATE TABLE measurements_new (
    kind TEXT NOT NULL CHECK (
        kind IN ('reel', 'scaled', 'encode', 'handled', 'upload_probe', 'effort_probe', 'handling_probe')
    ),
    key TEXT NOT NULL,
    value TEXT NOT NULL,
    folder TEXT,
    made_at REAL NOT NULL,
    PRIMARY KEY (kind, key)
) STRICT;

INSERT INTO measurements_new SELECT kind, key, value, folder, made_at FROM measurements;

DROP TABLE measurements;

ALTER TABLE measurements_new RENAME TO measurements;

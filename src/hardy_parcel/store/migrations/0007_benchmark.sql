-- Facts of before have no keyframes and only count captions: what is still there is read again at the next look into the inbox.
UPDATE masters SET modified_ns = 0 WHERE facts IS NOT NULL AND instr(facts, '"keyframes"') = 0;

-- How fast each codec encodes here, in one pass at effort medium.
CREATE TABLE benchmark (
    codec TEXT PRIMARY KEY,
    pixels_per_s REAL NOT NULL,
    measured_at REAL NOT NULL
) STRICT;

CREATE TABLE jobs_new (
    id TEXT PRIMARY KEY,
    kind TEXT NOT NULL CHECK (kind IN ('inspect', 'strip', 'check', 'listen', 'probe', 'benchmark', 'rehearse', 'pack')),
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

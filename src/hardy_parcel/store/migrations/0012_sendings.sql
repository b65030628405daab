-- What was sent to a platform's stand-in, and what came back of it; a receipt may be sent more than once, and taken away.
CREATE TABLE sendings (
    id TEXT PRIMARY KEY,
    receipt_id TEXT NOT NULL,
    evidence_key TEXT NOT NULL,
    sent_at REAL NOT NULL,
    arrived INTEGER NOT NULL DEFAULT 0,
    value TEXT NOT NULL
) STRICT;

CREATE INDEX sendings_by_receipt ON sendings (receipt_id, sent_at);

CREATE INDEX sendings_by_evidence ON sendings (evidence_key, arrived, sent_at);

CREATE TABLE jobs_new (
    id TEXT PRIMARY KEY,
    kind TEXT NOT NULL CHECK (
        kind IN ('inspect', 'strip', 'check', 'listen', 'probe', 'benchmark', 'rehearse', 'pack', 'send', 'arrive', 'returned')
    ),
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
    owner TEXT,
    attempts INTEGER NOT NULL DEFAULT 0,
    cancel_asked INTEGER NOT NULL DEFAULT 0,
    progress TEXT,
    file_name TEXT,
    problem TEXT,
    revision INTEGER NOT NULL,
    paused INTEGER NOT NULL DEFAULT 0,
    not_before REAL,
    expected_s REAL
) STRICT;

INSERT INTO jobs_new (
    id, kind, state, title, master_id, parcel_id, key, task, rank, created_at, started_at, ended_at, owner, attempts, cancel_asked,
    progress, file_name, problem, revision, paused, not_before, expected_s
)
SELECT id, kind, state, title, master_id, parcel_id, key, task, rank, created_at, started_at, ended_at, owner, attempts, cancel_asked,
    progress, file_name, problem, revision, paused, not_before, expected_s
FROM jobs;

DROP TABLE jobs;

ALTER TABLE jobs_new RENAME TO jobs;

CREATE INDEX jobs_by_state ON jobs (state, kind, rank, created_at);

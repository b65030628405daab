CREATE TABLE revision (
    only_row INTEGER PRIMARY KEY CHECK (only_row = 1),
    number INTEGER NOT NULL
) STRICT;

INSERT INTO revision VALUES (1, 0);

CREATE TABLE masters (
    id TEXT PRIMARY KEY,
    path TEXT NOT NULL UNIQUE,
    size_bytes INTEGER NOT NULL,
    modified_ns INTEGER NOT NULL,
    state TEXT NOT NULL CHECK (state IN ('reading', 'ready', 'unreadable', 'gone')),
    facts TEXT,
    problem TEXT,
    strip_pictures INTEGER NOT NULL DEFAULT 0,
    in_s TEXT,
    out_s TEXT,
    added_at REAL NOT NULL,
    revision INTEGER NOT NULL
) STRICT;

CREATE TABLE choices (
    master_id TEXT NOT NULL REFERENCES masters (id) ON DELETE CASCADE,
    destination_id TEXT NOT NULL,
    choices TEXT NOT NULL,
    PRIMARY KEY (master_id, destination_id)
) STRICT;

CREATE TABLE jobs (
    id TEXT PRIMARY KEY,
    kind TEXT NOT NULL CHECK (kind IN ('inspect', 'curve', 'pack')),
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

CREATE INDEX jobs_by_state ON jobs (state, kind, created_at);

CREATE TABLE rehearsals (
    picture_key TEXT NOT NULL,
    target_bps INTEGER NOT NULL,
    folder TEXT NOT NULL,
    rehearsal TEXT NOT NULL,
    made_at REAL NOT NULL,
    PRIMARY KEY (picture_key, target_bps)
) STRICT;

CREATE TABLE perfect_uploads (
    picture_key TEXT PRIMARY KEY,
    reel TEXT NOT NULL,
    perfect TEXT NOT NULL,
    made_at REAL NOT NULL
) STRICT;

CREATE TABLE speeds (
    id INTEGER PRIMARY KEY,
    effort TEXT NOT NULL,
    rate_control TEXT NOT NULL,
    pixels_per_s REAL NOT NULL,
    measured_at REAL NOT NULL
) STRICT;

CREATE TABLE receipts (
    job_id TEXT PRIMARY KEY,
    master_id TEXT NOT NULL,
    master_name TEXT NOT NULL,
    destination_id TEXT NOT NULL,
    receipt TEXT NOT NULL,
    plan TEXT NOT NULL,
    made_at REAL NOT NULL
) STRICT;

CREATE TABLE settings (
    name TEXT PRIMARY KEY,
    value TEXT NOT NULL
) STRICT;

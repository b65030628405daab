-- Files that platforms served, brought back or fetched, and what was measured of each.
CREATE TABLE returned_files (
    id TEXT PRIMARY KEY,
    destination_id TEXT NOT NULL,
    added_at REAL NOT NULL,
    value TEXT NOT NULL
) STRICT;

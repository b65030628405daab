-- Only one worker at a time has a data folder, so that whatever has an owner when it starts was left by one that is gone.
ALTER TABLE jobs DROP COLUMN lease_until;

ALTER TABLE jobs RENAME COLUMN lease_owner TO owner;

-- A job that waits may be held until it is told to go on, or not begin before a time (s since 1970).
ALTER TABLE jobs ADD COLUMN paused INTEGER NOT NULL DEFAULT 0;

ALTER TABLE jobs ADD COLUMN not_before REAL;

-- What it is expected to take (s).
ALTER TABLE jobs ADD COLUMN expected_s REAL;

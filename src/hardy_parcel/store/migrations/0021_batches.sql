-- Parcels that were sent to be packed together, with the name of what they have in common.
CREATE TABLE batches (
    id TEXT PRIMARY KEY,
    title TEXT NOT NULL,
    created_at REAL NOT NULL
) STRICT;

ALTER TABLE jobs ADD COLUMN batch_id TEXT REFERENCES batches (id) ON DELETE SET NULL;

CREATE INDEX jobs_by_batch ON jobs (batch_id) WHERE batch_id IS NOT NULL;

-- The shelf counts the receipts of each video.
CREATE INDEX receipts_by_master ON receipts (master_id);

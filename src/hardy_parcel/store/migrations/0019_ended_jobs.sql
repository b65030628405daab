-- Ended jobs are looked through by when they ended, and most jobs are ended.
CREATE INDEX jobs_by_end ON jobs (ended_at) WHERE ended_at IS NOT NULL;

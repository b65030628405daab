-- Which survival curve a file that came back lies on, and at which upload rate (bit/s): it tells of every rate of that curve. Both are
-- empty for what goes as it is, for sound alone, and for what came back before this was noted.
ALTER TABLE sendings ADD COLUMN curve_key TEXT;

ALTER TABLE sendings ADD COLUMN target_bps INTEGER;

CREATE INDEX sendings_by_curve ON sendings (curve_key, arrived, sent_at);

ALTER TABLE returned_files ADD COLUMN curve_key TEXT;

ALTER TABLE returned_files ADD COLUMN target_bps INTEGER;

CREATE INDEX returned_files_by_curve ON returned_files (curve_key);

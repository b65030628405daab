-- name: rehearsals
SELECT rehearsal FROM rehearsals WHERE picture_key = :picture_key ORDER BY target_bps;

-- name: rehearsal
SELECT folder, rehearsal FROM rehearsals WHERE picture_key = :picture_key AND target_bps = :target_bps;

-- name: keep_rehearsal
INSERT OR REPLACE INTO rehearsals (picture_key, target_bps, folder, rehearsal, made_at)
VALUES (:picture_key, :target_bps, :folder, :rehearsal, :made_at);

-- name: perfect
SELECT reel, perfect FROM perfect_uploads WHERE picture_key = :picture_key;

-- name: keep_perfect
INSERT OR REPLACE INTO perfect_uploads (picture_key, reel, perfect, made_at)
VALUES (:picture_key, :reel, :perfect, :made_at);

-- name: keep_speed
INSERT INTO speeds (codec, effort, rate_control, pixels_per_s, measured_at)
VALUES (:codec, :effort, :rate_control, :pixels_per_s, :measured_at);

-- name: speeds
SELECT pixels_per_s FROM speeds WHERE codec = :codec AND effort = :effort AND rate_control = :rate_control
ORDER BY measured_at DESC LIMIT 9;

-- name: keep_receipt
INSERT OR REPLACE INTO receipts (job_id, master_id, master_name, destination_id, receipt, plan, made_at)
VALUES (:job_id, :master_id, :master_name, :destination_id, :receipt, :plan, :made_at);

-- name: receipts
SELECT * FROM receipts ORDER BY made_at DESC LIMIT 200;

-- name: settings
SELECT name, value FROM settings;

-- name: set
INSERT INTO settings (name, value) VALUES (:name, :value)
ON CONFLICT (name) DO UPDATE SET value = excluded.value;

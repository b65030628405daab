-- name: measurement
SELECT value, folder FROM measurements WHERE kind = :kind AND key = :key;

-- name: keep_measurement
INSERT OR REPLACE INTO measurements (kind, key, value, folder, made_at) VALUES (:kind, :key, :value, :folder, :made_at);

-- name: folders
SELECT folder FROM measurements WHERE folder IS NOT NULL;

-- name: points
SELECT target_bps, encode_key, handled_key FROM curve_points WHERE curve_key = :curve_key ORDER BY target_bps;

-- name: keep_point
INSERT OR REPLACE INTO curve_points (curve_key, target_bps, encode_key, handled_key)
VALUES (:curve_key, :target_bps, :encode_key, :handled_key);

-- name: keep_speed
INSERT INTO speeds (codec, effort, rate_control, pixels, pixels_per_s, measured_at)
VALUES (:codec, :effort, :rate_control, :pixels, :pixels_per_s, :measured_at);

-- name: speeds
SELECT pixels_per_s FROM speeds
WHERE codec = :codec AND effort = :effort AND rate_control = :rate_control AND pixels BETWEEN :pixels * 0.5 AND :pixels * 2
ORDER BY measured_at DESC LIMIT 9;

-- name: keep_benchmark
INSERT OR REPLACE INTO benchmark (codec, pixels_per_s, measured_at) VALUES (:codec, :pixels_per_s, :measured_at);

-- name: benchmark
SELECT codec, pixels_per_s, measured_at FROM benchmark;

-- name: keep_receipt
INSERT OR REPLACE INTO receipts (job_id, master_id, master_name, destination_id, parcel_id, receipt, plan, made_at)
VALUES (:job_id, :master_id, :master_name, :destination_id, :parcel_id, :receipt, :plan, :made_at);

-- name: receipt
SELECT * FROM receipts WHERE job_id = :job_id;

-- name: remove_receipt
DELETE FROM receipts WHERE job_id = :job_id;

-- name: receipts
SELECT job_id, master_id, master_name, destination_id, parcel_id, plan, made_at, json_remove(receipt, '$.stills') AS receipt
FROM receipts ORDER BY made_at DESC LIMIT :most;

-- name: packed_last
SELECT parcel_id, job_id, plan, max(made_at) AS made_at FROM receipts
WHERE master_id = :master_id AND parcel_id IS NOT NULL GROUP BY parcel_id;

-- name: setting
SELECT value FROM settings WHERE name = :name;

-- name: settings
SELECT name, value FROM settings;

-- name: set
INSERT INTO settings (name, value) VALUES (:name, :value)
ON CONFLICT (name) DO UPDATE SET value = excluded.value;

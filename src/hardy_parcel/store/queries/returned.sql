-- name: keep
INSERT INTO returned_files (id, destination_id, added_at, value, curve_key, target_bps)
VALUES (:id, :destination_id, :added_at, :value, :curve_key, :target_bps)
ON CONFLICT (id) DO UPDATE SET value = excluded.value;

-- name: on_curve
SELECT value, target_bps FROM returned_files WHERE curve_key = :curve_key ORDER BY added_at;

-- name: one
SELECT value FROM returned_files WHERE id = :id;

-- name: every
SELECT value FROM returned_files ORDER BY added_at DESC LIMIT 200;

-- name: of_destination
SELECT value FROM returned_files WHERE destination_id = :destination_id ORDER BY added_at;

-- name: remove
DELETE FROM returned_files WHERE id = :id;

-- name: unmeasured
SELECT value FROM returned_files
WHERE json_extract(value, '$.found') IS NULL AND json_extract(value, '$.problem') IS NULL ORDER BY added_at;

-- name: ids
SELECT id FROM returned_files;

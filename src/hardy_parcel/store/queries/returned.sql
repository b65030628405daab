-- name: keep
INSERT OR REPLACE INTO returned_files (id, destination_id, added_at, value) VALUES (:id, :destination_id, :added_at, :value);

-- name: one
SELECT value FROM returned_files WHERE id = :id;

-- name: every
SELECT value FROM returned_files ORDER BY added_at DESC LIMIT 200;

-- name: of_destination
SELECT value FROM returned_files WHERE destination_id = :destination_id ORDER BY added_at;

-- name: remove
DELETE FROM returned_files WHERE id = :id;

-- name: newest
SELECT document FROM sheets AS one
WHERE version = (SELECT MAX(version) FROM sheets WHERE sheet_id = one.sheet_id)
ORDER BY sheet_id;

-- name: versions
SELECT document FROM sheets WHERE sheet_id = :sheet_id ORDER BY version;

-- name: keep
INSERT INTO sheets (sheet_id, version, document, kept_at) VALUES (:sheet_id, :version, :document, :kept_at);

-- name: removed
SELECT sheet_id FROM removed_sheets;

-- name: remove
INSERT OR IGNORE INTO removed_sheets (sheet_id) VALUES (:sheet_id);

-- name: put_back
DELETE FROM removed_sheets WHERE sheet_id = :sheet_id;

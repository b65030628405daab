-- name: one
SELECT value FROM drives WHERE folder = :folder;

-- name: set
INSERT INTO drives (folder, value) VALUES (:folder, :value) ON CONFLICT (folder) DO UPDATE SET value = excluded.value;

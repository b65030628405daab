-- name: list
SELECT * FROM masters WHERE state <> 'gone' ORDER BY added_at DESC, path;

-- name: known
SELECT id, path, size_bytes, modified_ns, state FROM masters;

-- name: one
SELECT * FROM masters WHERE id = :id;

-- name: by_path
SELECT * FROM masters WHERE path = :path;

-- name: add
INSERT INTO masters (id, path, size_bytes, modified_ns, state, added_at, revision)
VALUES (:id, :path, :size_bytes, :modified_ns, 'reading', :added_at, (SELECT number FROM revision))
ON CONFLICT (path) DO UPDATE SET size_bytes = excluded.size_bytes, modified_ns = excluded.modified_ns,
    state = 'reading', facts = NULL, problem = NULL, strip_pictures = 0, revision = excluded.revision
RETURNING id;

-- name: ready
UPDATE masters SET state = 'ready', facts = :facts, strip_pictures = :strip_pictures, problem = NULL,
    revision = (SELECT number FROM revision)
WHERE id = :id;

-- name: unreadable
UPDATE masters SET state = 'unreadable', problem = :problem, revision = (SELECT number FROM revision) WHERE id = :id;

-- name: gone
UPDATE masters SET state = 'gone', revision = (SELECT number FROM revision) WHERE id = :id;

-- name: excerpt
UPDATE masters SET in_s = :in_s, out_s = :out_s, revision = (SELECT number FROM revision) WHERE id = :id;

-- name: choices
SELECT destination_id, choices FROM choices WHERE master_id = :master_id;

-- name: choose
INSERT INTO choices (master_id, destination_id, choices) VALUES (:master_id, :destination_id, :choices)
ON CONFLICT (master_id, destination_id) DO UPDATE SET choices = excluded.choices;

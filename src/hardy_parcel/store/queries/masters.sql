-- name: list
SELECT masters.*, surveys.picture, surveys.sound, surveys.loudness, surveys.levels,
    (SELECT count(*) FROM receipts WHERE receipts.master_id = masters.id) AS packed
FROM masters
LEFT JOIN surveys ON surveys.content_id = masters.content_id
WHERE state <> 'gone' AND removed = 0 ORDER BY added_at DESC, path;

-- name: known
SELECT id, path, size_bytes, modified_ns, state, arriving, removed FROM masters;

-- name: one
SELECT masters.*, surveys.picture, surveys.sound, surveys.loudness, surveys.levels,
    (SELECT count(*) FROM receipts WHERE receipts.master_id = masters.id) AS packed
FROM masters
LEFT JOIN surveys ON surveys.content_id = masters.content_id
WHERE masters.id = :id;

-- name: add
INSERT INTO masters (id, path, size_bytes, modified_ns, state, added_at, uploaded, arriving, revision)
VALUES (
    :id, :path, :size_bytes, :modified_ns, 'reading', :added_at, :uploaded, :arriving, (SELECT number FROM revision)
)
ON CONFLICT (path) DO UPDATE SET size_bytes = excluded.size_bytes, modified_ns = excluded.modified_ns,
    state = 'reading', facts = NULL, content_id = NULL, problem = NULL, strip_pictures = 0, removed = 0,
    uploaded = max(uploaded, excluded.uploaded), arriving = excluded.arriving, revision = excluded.revision
RETURNING id;

-- name: ready
UPDATE masters SET state = 'ready', facts = :facts, content_id = :content_id, problem = NULL,
    revision = (SELECT number FROM revision)
WHERE id = :id;

-- name: unread
SELECT masters.id, masters.path, masters.state FROM masters LEFT JOIN surveys ON surveys.content_id = masters.content_id
WHERE masters.removed = 0 AND masters.arriving = 0 AND masters.problem IS NULL AND (
    masters.state = 'reading' OR (masters.state = 'ready' AND masters.strip_pictures = 0 AND surveys.picture IS NULL)
)
ORDER BY masters.added_at;

-- name: missed
SELECT missed.id FROM masters AS missed
WHERE missed.content_id = :content_id AND missed.state = 'gone' AND missed.removed = 0 AND missed.id <> :id
    AND EXISTS (SELECT 1 FROM masters AS found WHERE found.id = :id AND found.has_lanes = 0 AND found.mending IS NULL)
ORDER BY
    replace(missed.path, rtrim(missed.path, replace(missed.path, '/', '')), '')
        = replace(:path, rtrim(:path, replace(:path, '/', '')), '') DESC,
    missed.has_lanes DESC, missed.added_at DESC
LIMIT 1;

-- name: jobs_go_to
UPDATE jobs SET master_id = :former, revision = (SELECT number FROM revision) WHERE master_id = :id;

-- name: take_out
DELETE FROM masters WHERE id = :id RETURNING path, size_bytes, modified_ns, uploaded;

-- name: found_again
UPDATE masters SET path = :path, size_bytes = :size_bytes, modified_ns = :modified_ns, uploaded = :uploaded, arriving = 0,
    strip_pictures = 0, revision = (SELECT number FROM revision)
WHERE id = :former;

-- name: strip
UPDATE masters SET strip_pictures = :strip_pictures, revision = (SELECT number FROM revision) WHERE id = :id;

-- name: unreadable
UPDATE masters SET state = 'unreadable', problem = :problem, revision = (SELECT number FROM revision) WHERE id = :id;

-- name: problem
UPDATE masters SET problem = :problem, revision = (SELECT number FROM revision) WHERE id = :id;

-- name: gone
UPDATE masters SET state = 'gone', revision = (SELECT number FROM revision) WHERE id = :id;

-- name: remove
UPDATE masters SET removed = 1, revision = (SELECT number FROM revision) WHERE id = :id;

-- name: touch
UPDATE masters SET revision = (SELECT number FROM revision) WHERE content_id = :content_id;

-- name: mend
UPDATE masters SET mending = :mending, revision = (SELECT number FROM revision) WHERE id = :id;

-- name: excerpts
SELECT number, title, in_s, out_s FROM excerpts WHERE master_id = :master_id ORDER BY number;

-- name: all_excerpts
SELECT master_id, number, title, in_s, out_s FROM excerpts ORDER BY number;

-- name: keep_excerpt
INSERT INTO excerpts (master_id, number, title, in_s, out_s) VALUES (:master_id, :number, :title, :in_s, :out_s)
ON CONFLICT (master_id, number) DO UPDATE SET title = excluded.title, in_s = excluded.in_s, out_s = excluded.out_s;

-- name: drop_excerpt
DELETE FROM excerpts WHERE master_id = :master_id AND number = :number;

-- name: choose_excerpt
UPDATE masters SET excerpt_number = :number, revision = (SELECT number FROM revision) WHERE id = :master_id;

-- name: survey
SELECT picture, sound, loudness FROM surveys WHERE content_id = :content_id;

-- name: levels
SELECT levels FROM surveys WHERE content_id = :content_id;

-- name: keep_picture
INSERT INTO surveys (content_id, picture, measured_at) VALUES (:content_id, :picture, :now)
ON CONFLICT (content_id) DO UPDATE SET picture = excluded.picture, measured_at = excluded.measured_at;

-- name: keep_sound
INSERT INTO surveys (content_id, sound, loudness, levels, measured_at) VALUES (:content_id, :sound, :loudness, :levels, :now)
ON CONFLICT (content_id) DO UPDATE SET sound = excluded.sound, loudness = coalesce(excluded.loudness, loudness),
    levels = coalesce(excluded.levels, levels),
    measured_at = excluded.measured_at;

-- name: add
INSERT INTO jobs (
    id, kind, state, title, subject, goes_to, master_id, parcel_id, key, task, rank, not_before, expected_s, file_name, created_at,
    batch_id, revision
) VALUES (
    :id, :kind, 'waiting', :title, :subject, :goes_to, :master_id, :parcel_id, :key, :task, :rank, :not_before, :expected_s, :file_name,
    :created_at, :batch_id, (SELECT number FROM revision)
);

-- name: one
SELECT * FROM jobs WHERE id = :id;

-- name: recent
SELECT * FROM jobs
WHERE kind IN ('rehearse', 'pack', 'send', 'arrive', 'returned') OR (kind IN ('check', 'listen', 'probe', 'benchmark') AND state IN ('waiting', 'running'))
ORDER BY
    CASE state WHEN 'running' THEN 0 WHEN 'waiting' THEN 1 ELSE 2 END,
    CASE WHEN state IN ('running', 'waiting') THEN rank ELSE -ended_at END,
    created_at
LIMIT 100;

-- name: changed
SELECT * FROM jobs WHERE revision > :revision ORDER BY revision;

-- name: open_like
SELECT * FROM jobs WHERE kind = :kind AND master_id = :master_id AND (:parcel_id IS NULL OR parcel_id = :parcel_id)
    AND (:key IS NULL OR key = :key) AND state IN ('waiting', 'running')
LIMIT 1;

-- name: open_of_key
SELECT 1 FROM jobs WHERE kind = :kind AND key = :key AND state IN ('waiting', 'running') LIMIT 1;

-- name: last_like
SELECT state FROM jobs WHERE kind = :kind AND key = :key ORDER BY created_at DESC LIMIT 1;

-- name: open_of
SELECT * FROM jobs WHERE master_id = :master_id AND state IN ('waiting', 'running') ORDER BY created_at;

-- name: promised
SELECT json_extract(task, '$.folder') AS folder, json_extract(task, '$.file_name') AS file_name FROM jobs WHERE kind = 'pack' AND state IN ('waiting', 'running');

-- name: open_packs
SELECT count(*) FROM jobs WHERE kind = 'pack' AND state IN ('waiting', 'running');

-- name: awaited
SELECT json_extract(task, '$.folder') AS folder, coalesce(json_extract(task, '$.expected_bytes'), 0) AS bytes FROM jobs
WHERE kind = 'pack' AND state IN ('waiting', 'running');

-- name: packed_into
SELECT id, json_extract(task, '$.folder') AS folder FROM jobs
WHERE kind = 'pack' AND ended_at IS NOT NULL AND state NOT IN ('waiting', 'running')
AND json_extract(task, '$.folder') IS NOT NULL ORDER BY ended_at DESC LIMIT 1000;

-- name: prune
DELETE FROM jobs WHERE id IN (
    SELECT id FROM jobs WHERE state NOT IN ('waiting', 'running') AND (
        coalesce(ended_at, created_at) < :before OR id IN (
            SELECT id FROM jobs WHERE state NOT IN ('waiting', 'running')
            ORDER BY coalesce(ended_at, created_at) DESC, id LIMIT -1 OFFSET :most
        )
    ) ORDER BY coalesce(ended_at, created_at) LIMIT :batch
);

-- name: claim
UPDATE jobs SET state = 'running', owner = :owner, problem = NULL, started_at = coalesce(started_at, :now), revision = (SELECT number FROM revision)
WHERE id = (
    SELECT id FROM jobs
    WHERE kind = :kind AND state = 'waiting' AND cancel_asked = 0 AND paused = 0 AND coalesce(not_before, 0) <= :now
    ORDER BY rank, created_at LIMIT 1
)
RETURNING *;

-- name: kinds_with_work
SELECT DISTINCT kind FROM jobs WHERE state = 'waiting' AND (cancel_asked OR (paused = 0 AND coalesce(not_before, 0) <= :now));

-- name: any_cancelled
SELECT 1 FROM jobs WHERE cancel_asked = 1 AND state = 'waiting' LIMIT 1;

-- name: drop_cancelled
UPDATE jobs SET state = 'cancelled', ended_at = :now, owner = NULL, revision = (SELECT number FROM revision)
WHERE cancel_asked = 1 AND state = 'waiting'
RETURNING *;

-- name: take_over
UPDATE jobs SET state = 'waiting', owner = NULL, progress = NULL, revision = (SELECT number FROM revision) WHERE state = 'running'
RETURNING *;

-- name: progress
UPDATE jobs SET progress = :progress, revision = (SELECT number FROM revision)
WHERE id = :id AND owner = :owner AND state = 'running';

-- name: end
UPDATE jobs SET state = :state, file_name = coalesce(:file_name, file_name), problem = :problem, ended_at = :now, owner = NULL,
    revision = (SELECT number FROM revision)
WHERE id = :id AND owner = :owner AND state = 'running';

-- name: put_back
UPDATE jobs SET state = 'waiting', owner = NULL, progress = NULL, attempts = attempts + :died, revision = (SELECT number FROM revision)
WHERE id = :id AND owner = :owner AND state = 'running';

-- name: hold
UPDATE jobs SET state = 'waiting', owner = NULL, progress = NULL, problem = :problem, not_before = :until,
    revision = (SELECT number FROM revision)
WHERE id = :id AND owner = :owner AND state = 'running';

-- name: ask_cancel
UPDATE jobs SET cancel_asked = 1, revision = (SELECT number FROM revision)
WHERE id = :id AND state IN ('waiting', 'running');

-- name: begin_at
UPDATE jobs SET not_before = :at, revision = (SELECT number FROM revision) WHERE kind = :kind AND state = 'waiting';

-- name: set_rank
UPDATE jobs SET rank = :rank, revision = (SELECT number FROM revision) WHERE id = :id AND state = 'waiting';

-- name: task
SELECT task FROM jobs WHERE id = :id;

-- name: wishes
SELECT id, cancel_asked, paused FROM jobs WHERE state = 'running' AND owner = :owner;

-- name: pause
UPDATE jobs SET paused = :paused, revision = (SELECT number FROM revision) WHERE id = :id AND state IN ('waiting', 'running');

-- name: put_before
UPDATE jobs SET revision = (SELECT number FROM revision), rank = (
    SELECT min(rank) - 1 FROM jobs WHERE kind = :kind AND state IN ('waiting', 'running')
)
WHERE id = :id AND state IN ('waiting', 'running');

-- name: waits_before
SELECT 1 FROM jobs WHERE kind = :kind AND state = 'waiting' AND cancel_asked = 0 AND paused = 0 AND coalesce(not_before, 0) <= :now
    AND rank < (SELECT rank FROM jobs WHERE id = :id) LIMIT 1;

-- name: put_film_first
UPDATE jobs SET revision = (SELECT number FROM revision),
    rank = CASE WHEN rank >= :other / 2 THEN rank - :other ELSE rank END + CASE WHEN master_id IS :master_id THEN 0 ELSE :other END
WHERE kind = :kind AND state IN ('waiting', 'running') AND (master_id IS :master_id) = (rank >= :other / 2);

-- name: put_later
UPDATE jobs SET rank = :later, revision = (SELECT number FROM revision)
WHERE kind = :kind AND state = 'waiting' AND rank >= :rank AND rank < :later AND parcel_id IS NOT :parcel_id;

-- name: withdraw_some
UPDATE jobs SET cancel_asked = 1, key = NULL, revision = (SELECT number FROM revision)
WHERE id IN (SELECT value FROM json_each(:ids)) AND state IN ('waiting', 'running');

-- name: open_of_kind
SELECT * FROM jobs WHERE kind = :kind AND state IN ('waiting', 'running');

-- name: withdraw
UPDATE jobs SET cancel_asked = 1, key = NULL, revision = (SELECT number FROM revision)
WHERE kind = :kind AND state IN ('waiting', 'running');

-- name: put_back_others
UPDATE jobs SET state = 'waiting', owner = NULL, progress = NULL, attempts = attempts + 1, revision = (SELECT number FROM revision)
WHERE state = 'running' AND id NOT IN (SELECT value FROM json_each(:ids))
RETURNING *;

-- name: running_others
SELECT 1 FROM jobs WHERE state = 'running' AND id NOT IN (SELECT value FROM json_each(:ids)) LIMIT 1;

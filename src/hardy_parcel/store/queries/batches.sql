-- name: add
INSERT INTO batches (id, title, created_at) VALUES (:id, :title, :created_at);

-- name: one
SELECT * FROM batches WHERE id = :id;

-- name: recent
SELECT * FROM batches WHERE id IN (SELECT batch_id FROM jobs WHERE batch_id IS NOT NULL) ORDER BY created_at DESC LIMIT :most;

-- name: jobs
SELECT jobs.*, coalesce(json_extract(task, '$.expected_bytes'), 0) AS expected_bytes,
    json_extract(receipts.receipt, '$.size_bytes') AS packed_bytes
FROM jobs LEFT JOIN receipts ON receipts.job_id = jobs.id
WHERE jobs.batch_id = :id ORDER BY jobs.created_at;

-- name: receipts
SELECT receipts.job_id FROM receipts JOIN jobs ON jobs.id = receipts.job_id WHERE jobs.batch_id = :id ORDER BY receipts.made_at;

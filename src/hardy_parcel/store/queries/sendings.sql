-- name: keep
INSERT INTO sendings (id, receipt_id, evidence_key, sent_at, arrived, value, curve_key, target_bps)
VALUES (:id, :receipt_id, :evidence_key, :sent_at, :arrived, :value, :curve_key, :target_bps)
ON CONFLICT (id) DO UPDATE SET arrived = excluded.arrived, value = excluded.value;

-- name: one
SELECT * FROM sendings WHERE id = :id;

-- name: of_receipt
SELECT * FROM sendings WHERE receipt_id = :receipt_id ORDER BY sent_at DESC;

-- name: latest
SELECT * FROM sendings WHERE rowid IN (
    SELECT max(rowid) FROM sendings GROUP BY receipt_id ORDER BY max(sent_at) DESC LIMIT :most
);

-- name: returned
SELECT * FROM sendings WHERE evidence_key = :evidence_key AND arrived = 1 ORDER BY sent_at DESC LIMIT 1;

-- name: returned_on_curve
SELECT value, target_bps FROM sendings WHERE curve_key = :curve_key AND arrived = 1 ORDER BY sent_at;

-- name: unfinished
SELECT value FROM sendings WHERE arrived = 0 AND json_extract(value, '$.state') IN ('waiting', 'sent') ORDER BY sent_at;

-- name: ids
SELECT id FROM sendings;

-- name: keep
INSERT INTO verdicts (content_id, saying, destination_id, verdict, made_at)
VALUES (:content_id, :saying, :destination_id, :verdict, :made_at)
ON CONFLICT (content_id, saying, destination_id) DO UPDATE SET verdict = excluded.verdict, made_at = excluded.made_at;

-- name: one
SELECT verdict FROM verdicts WHERE content_id = :content_id AND saying = :saying AND destination_id = :destination_id;

-- name: all
SELECT content_id, verdict FROM verdicts ORDER BY made_at;

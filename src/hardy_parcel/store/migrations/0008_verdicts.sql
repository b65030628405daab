-- What sayings came to on films that they were tried on.
CREATE TABLE verdicts (
    content_id TEXT NOT NULL,
    saying TEXT NOT NULL,
    destination_id TEXT NOT NULL,
    verdict TEXT NOT NULL,
    made_at REAL NOT NULL,
    PRIMARY KEY (content_id, saying, destination_id)
) STRICT;

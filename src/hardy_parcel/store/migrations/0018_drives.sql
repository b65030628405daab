-- The drive that each folder of packed files lay on when it was used last, as JSON.
CREATE TABLE drives (
    folder TEXT PRIMARY KEY,
    value TEXT NOT NULL
) STRICT;

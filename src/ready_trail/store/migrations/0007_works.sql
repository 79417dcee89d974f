-- What a worker process of the server must know of the others stands here, not in its memory.
CREATE TABLE work (
    work_id  TEXT PRIMARY KEY,
    key      TEXT    NOT NULL,
    name     TEXT    NOT NULL,
    owner    INTEGER NOT NULL,
    state    TEXT    NOT NULL CHECK (state IN ('running', 'done', 'failed', 'stopped')),
    done     INTEGER NOT NULL CHECK (done >= 0),
    total    INTEGER NOT NULL CHECK (total >= 1),
    words    TEXT    NOT NULL,
    result   BLOB,
    leads_to TEXT    NOT NULL,
    made_at  TEXT    NOT NULL
) STRICT;

CREATE INDEX work_of_key ON work (key);

CREATE TABLE pairing_code (
    only     INTEGER PRIMARY KEY CHECK (only = 1),
    code     TEXT NOT NULL,
    until_at REAL NOT NULL,
    wrong    INTEGER NOT NULL CHECK (wrong >= 0)
) STRICT;

CREATE TABLE pairing_try (
    try_id INTEGER PRIMARY KEY,
    peer   TEXT NOT NULL,
    at     REAL NOT NULL
) STRICT;

-- Every revision stands by itself: one that was kept as a change of another is made whole.
DROP TRIGGER revision_is_final;

CREATE TRIGGER revision_is_final BEFORE UPDATE ON revision
WHEN old.form = 'whole' OR new.form <> 'whole' OR new.job_id <> old.job_id
  OR new.number <> old.number OR new.parent IS NOT old.parent OR new.kind <> old.kind
  OR new.title <> old.title OR new.made_at <> old.made_at
BEGIN
    SELECT RAISE(ABORT, 'revisions are append-only');
END;

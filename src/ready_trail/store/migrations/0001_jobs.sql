CREATE TABLE job (
    job_id      INTEGER PRIMARY KEY,
    head        INTEGER NOT NULL CHECK (head >= 1),
    created_at  TEXT    NOT NULL CHECK (created_at LIKE '____-__-__T__:__:__%Z'),
    archived_at TEXT             CHECK (archived_at IS NULL OR archived_at LIKE '____-__-__T__:__:__%Z'),
    FOREIGN KEY (job_id, head) REFERENCES revision (job_id, number) DEFERRABLE INITIALLY DEFERRED
) STRICT;

CREATE TABLE revision (
    job_id   INTEGER NOT NULL REFERENCES job (job_id),
    number   INTEGER NOT NULL CHECK (number >= 1),
    parent   INTEGER          CHECK (parent IS NULL OR parent < number),
    kind     TEXT    NOT NULL CHECK (kind <> ''),
    title    TEXT    NOT NULL CHECK (title <> ''),
    document TEXT    NOT NULL CHECK (json_valid(document)),
    made_at  TEXT    NOT NULL CHECK (made_at LIKE '____-__-__T__:__:__%Z'),
    PRIMARY KEY (job_id, number),
    FOREIGN KEY (job_id, parent) REFERENCES revision (job_id, number)
) STRICT;

CREATE INDEX revision_children ON revision (job_id, parent);

CREATE TRIGGER revision_is_kept BEFORE DELETE ON revision
BEGIN
    SELECT RAISE(ABORT, 'revisions are append-only');
END;

CREATE TRIGGER revision_is_final BEFORE UPDATE ON revision
BEGIN
    SELECT RAISE(ABORT, 'revisions are append-only');
END;

CREATE TRIGGER job_is_kept BEFORE DELETE ON job
BEGIN
    SELECT RAISE(ABORT, 'jobs are archived, not deleted');
END;

-- Who practises, and what each did: facts. Nothing of it belongs to a job.
CREATE TABLE learner (
    learner_id INTEGER PRIMARY KEY,
    name       TEXT NOT NULL COLLATE NOCASE UNIQUE CHECK (length(name) BETWEEN 1 AND 60),
    made_at    TEXT NOT NULL
) STRICT;

CREATE TABLE practice (
    practice_id INTEGER PRIMARY KEY,
    key         TEXT    NOT NULL UNIQUE CHECK (length(key) BETWEEN 8 AND 64),
    learner_id  INTEGER NOT NULL REFERENCES learner (learner_id),
    document    TEXT    NOT NULL CHECK (json_valid(document)),
    received_at TEXT    NOT NULL
) STRICT;

CREATE INDEX practice_of_learner ON practice (learner_id, practice_id);

CREATE TRIGGER practice_is_kept BEFORE DELETE ON practice
BEGIN
    SELECT RAISE(ABORT, 'facts are append-only');
END;

CREATE TRIGGER practice_is_final BEFORE UPDATE ON practice
BEGIN
    SELECT RAISE(ABORT, 'facts are append-only');
END;

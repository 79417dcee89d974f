ALTER TABLE job ADD COLUMN document TEXT CHECK (document IS NULL OR json_valid(document));

UPDATE job SET document = (
    SELECT revision.document FROM revision
     WHERE revision.job_id = job.job_id AND revision.number = job.head);

CREATE TABLE revision_packed (
    job_id   INTEGER NOT NULL REFERENCES job (job_id),
    number   INTEGER NOT NULL CHECK (number >= 1),
    parent   INTEGER          CHECK (parent IS NULL OR parent < number),
    kind     TEXT    NOT NULL CHECK (kind <> ''),
    title    TEXT    NOT NULL CHECK (title <> ''),
    base     INTEGER          CHECK (base IS NULL OR base < number),
    depth    INTEGER NOT NULL CHECK (depth >= 0 AND (depth = 0) = (base IS NULL)),
    form     TEXT    NOT NULL CHECK (form IN ('plain', 'whole', 'change')),
    body     BLOB    NOT NULL,
    made_at  TEXT    NOT NULL CHECK (made_at LIKE '____-__-__T__:__:__%Z'),
    PRIMARY KEY (job_id, number),
    FOREIGN KEY (job_id, parent) REFERENCES revision_packed (job_id, number),
    FOREIGN KEY (job_id, base) REFERENCES revision_packed (job_id, number)
) STRICT;

INSERT INTO revision_packed (job_id, number, parent, kind, title, base, depth, form, body, made_at)
SELECT job_id, number, parent, kind, title, NULL, 0, 'plain', CAST(document AS BLOB), made_at
  FROM revision;

DROP TABLE revision;

ALTER TABLE revision_packed RENAME TO revision;

CREATE INDEX revision_children ON revision (job_id, parent);

CREATE TRIGGER revision_is_kept BEFORE DELETE ON revision
BEGIN
    SELECT RAISE(ABORT, 'revisions are append-only');
END;

CREATE TRIGGER revision_is_final BEFORE UPDATE ON revision
WHEN old.form <> 'plain' OR new.form = 'plain' OR new.job_id <> old.job_id
  OR new.number <> old.number OR new.parent IS NOT old.parent OR new.kind <> old.kind
  OR new.title <> old.title OR new.made_at <> old.made_at
BEGIN
    SELECT RAISE(ABORT, 'revisions are append-only');
END;

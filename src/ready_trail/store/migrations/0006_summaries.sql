-- What the list of jobs shows, kept so that nobody has to design every job to read it. Each row is
-- made anew whenever it is of another revision, or reckoned by other rules or other figures.
CREATE TABLE job_summary (
    job_id       INTEGER PRIMARY KEY REFERENCES job (job_id),
    revision     INTEGER NOT NULL CHECK (revision >= 1),
    reckoned_by  TEXT    NOT NULL,
    name         TEXT    NOT NULL,
    place        TEXT    NOT NULL,
    vehicle_kind TEXT    NOT NULL,
    nominal_v    INTEGER NOT NULL,
    circuits     INTEGER NOT NULL CHECK (circuits >= 0),
    ready        INTEGER NOT NULL CHECK (ready BETWEEN 0 AND circuits),
    stops        INTEGER NOT NULL CHECK (stops >= 0),
    cautions     INTEGER NOT NULL CHECK (cautions >= 0),
    trouble      TEXT    NOT NULL
) STRICT;

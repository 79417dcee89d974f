-- A job has one or more vehicles: what is done to one, and read of it, is a fact about that one.
CREATE TABLE vehicle (
    vehicle_id INTEGER PRIMARY KEY,
    job_id     INTEGER NOT NULL REFERENCES job (job_id),
    name       TEXT    NOT NULL CHECK (length(name) <= 80),
    made_at    TEXT    NOT NULL CHECK (made_at LIKE '____-__-__T__:__:__%Z')
) STRICT;

CREATE INDEX vehicle_of_job ON vehicle (job_id, vehicle_id);

-- Every job's first vehicle goes by the job's own name.
INSERT INTO vehicle (job_id, name, made_at) SELECT job_id, '', created_at FROM job;

CREATE TRIGGER job_has_vehicle AFTER INSERT ON job
BEGIN
    INSERT INTO vehicle (job_id, name, made_at) VALUES (new.job_id, '', new.created_at);
END;

DROP TRIGGER tick_is_kept;
DROP TRIGGER tick_is_final;

ALTER TABLE tick ADD COLUMN vehicle_id INTEGER REFERENCES vehicle (vehicle_id);

UPDATE tick SET vehicle_id = (SELECT vehicle_id FROM vehicle WHERE vehicle.job_id = tick.job_id);

CREATE TRIGGER tick_is_kept BEFORE DELETE ON tick
BEGIN
    SELECT RAISE(ABORT, 'ticks are append-only');
END;

CREATE TRIGGER tick_is_final BEFORE UPDATE ON tick
BEGIN
    SELECT RAISE(ABORT, 'ticks are append-only');
END;

CREATE TABLE reading (
    reading_id  INTEGER PRIMARY KEY,
    key         TEXT    NOT NULL UNIQUE CHECK (length(key) BETWEEN 8 AND 64),
    vehicle_id  INTEGER NOT NULL REFERENCES vehicle (vehicle_id),
    circuit_id  TEXT    NOT NULL,
    test        TEXT    NOT NULL CHECK (test <> ''),
    asked       TEXT    NOT NULL,
    instrument  TEXT    NOT NULL CHECK (instrument <> ''),
    value       REAL             CHECK (value IS NOT NULL OR skipped <> ''),
    skipped     TEXT    NOT NULL,
    middle      REAL,
    sigma       REAL             CHECK (sigma IS NULL OR sigma >= 0),
    verdict     TEXT    NOT NULL CHECK (verdict IN ('pass', 'watch', 'fail', 'skipped')),
    source      TEXT    NOT NULL CHECK (source IN ('typed', 'instrument', 'file')),
    design      TEXT    NOT NULL,
    who         TEXT    NOT NULL,
    made_at     TEXT    NOT NULL CHECK (made_at LIKE '____-__-__T__:__:__%Z'),
    received_at TEXT    NOT NULL CHECK (received_at LIKE '____-__-__T__:__:__%Z')
) STRICT;

CREATE INDEX reading_of_vehicle ON reading (vehicle_id, reading_id);

CREATE TRIGGER reading_is_kept BEFORE DELETE ON reading
BEGIN
    SELECT RAISE(ABORT, 'readings are append-only');
END;

CREATE TRIGGER reading_is_final BEFORE UPDATE ON reading
BEGIN
    SELECT RAISE(ABORT, 'readings are append-only');
END;

CREATE TRIGGER vehicle_is_kept BEFORE DELETE ON vehicle
BEGIN
    SELECT RAISE(ABORT, 'vehicles are kept with what was read of them');
END;

-- What was reckoned of a circuit, so that nobody waits for it twice; it may be reckoned anew.
CREATE TABLE plan (
    digest  TEXT PRIMARY KEY,
    arrays  BLOB NOT NULL,
    made_at TEXT NOT NULL
) STRICT;

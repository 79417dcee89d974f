-- What stands in a vehicle and what was done to it later: facts, each a document of its kind.
CREATE TABLE fact (
    fact_id     INTEGER PRIMARY KEY,
    key         TEXT    NOT NULL UNIQUE CHECK (length(key) BETWEEN 8 AND 64),
    vehicle_id  INTEGER NOT NULL REFERENCES vehicle (vehicle_id),
    kind        TEXT    NOT NULL CHECK (kind <> ''),
    document    TEXT    NOT NULL CHECK (json_valid(document)),
    received_at TEXT    NOT NULL CHECK (received_at LIKE '____-__-__T__:__:__%Z')
) STRICT;

CREATE INDEX fact_of_vehicle ON fact (vehicle_id, fact_id);

CREATE TRIGGER fact_is_kept BEFORE DELETE ON fact
BEGIN
    SELECT RAISE(ABORT, 'facts are append-only');
END;

CREATE TRIGGER fact_is_final BEFORE UPDATE ON fact
BEGIN
    SELECT RAISE(ABORT, 'facts are append-only');
END;

CREATE TABLE tick (
    tick_id     INTEGER PRIMARY KEY,
    key         TEXT    NOT NULL UNIQUE CHECK (length(key) BETWEEN 8 AND 64),
    job_id      INTEGER NOT NULL REFERENCES job (job_id),
    item        TEXT    NOT NULL CHECK (item LIKE 'step:%' OR item LIKE 'cut:%'),
    done        INTEGER NOT NULL CHECK (done IN (0, 1)),
    print       TEXT    NOT NULL,
    asked       TEXT    NOT NULL,
    who         TEXT    NOT NULL,
    made_at     TEXT    NOT NULL CHECK (made_at LIKE '____-__-__T__:__:__%Z'),
    received_at TEXT    NOT NULL CHECK (received_at LIKE '____-__-__T__:__:__%Z')
) STRICT;

CREATE INDEX tick_of_job ON tick (job_id, tick_id);

CREATE TABLE part (
    part_key   TEXT PRIMARY KEY CHECK (length(part_key) BETWEEN 1 AND 80),
    label      TEXT NOT NULL CHECK (label <> ''),
    grp        TEXT NOT NULL,
    unit       TEXT NOT NULL CHECK (unit IN ('pc', 'm')),
    price      REAL          CHECK (price IS NULL OR price >= 0),
    order_ref  TEXT NOT NULL,
    least      REAL NOT NULL CHECK (least >= 0),
    row        TEXT NOT NULL,
    changed_at TEXT NOT NULL
) STRICT;

CREATE TABLE stock_move (
    move_id     INTEGER PRIMARY KEY,
    key         TEXT    NOT NULL UNIQUE CHECK (length(key) BETWEEN 8 AND 64),
    part_key    TEXT    NOT NULL REFERENCES part (part_key),
    kind        TEXT    NOT NULL CHECK (kind IN ('bought', 'taken', 'returned', 'counted')),
    quantity    REAL    NOT NULL CHECK (quantity >= 0),
    job_id      INTEGER          REFERENCES job (job_id),
    note        TEXT    NOT NULL,
    made_at     TEXT    NOT NULL CHECK (made_at LIKE '____-__-__T__:__:__%Z')
) STRICT;

CREATE INDEX move_of_part ON stock_move (part_key, move_id);

CREATE TABLE figure (
    row      TEXT NOT NULL,
    field    TEXT NOT NULL,
    value    REAL NOT NULL,
    source   TEXT NOT NULL CHECK (source <> ''),
    made_at  TEXT NOT NULL,
    PRIMARY KEY (row, field)
) STRICT;

CREATE TABLE setting (
    name  TEXT PRIMARY KEY,
    value TEXT NOT NULL
) STRICT;

CREATE TRIGGER tick_is_kept BEFORE DELETE ON tick
BEGIN
    SELECT RAISE(ABORT, 'ticks are append-only');
END;

CREATE TRIGGER tick_is_final BEFORE UPDATE ON tick
BEGIN
    SELECT RAISE(ABORT, 'ticks are append-only');
END;

CREATE TRIGGER move_is_kept BEFORE DELETE ON stock_move
BEGIN
    SELECT RAISE(ABORT, 'stock moves are append-only');
END;

CREATE TRIGGER move_is_final BEFORE UPDATE ON stock_move
BEGIN
    SELECT RAISE(ABORT, 'stock moves are append-only');
END;

CREATE TABLE device (
    device_id INTEGER PRIMARY KEY,
    name      TEXT    NOT NULL CHECK (name <> ''),
    token     TEXT    NOT NULL UNIQUE CHECK (length(token) = 64),
    read_only INTEGER NOT NULL CHECK (read_only IN (0, 1)),
    paired_at TEXT    NOT NULL,
    seen_at   TEXT    NOT NULL,
    gone_at   TEXT
) STRICT;

CREATE TABLE pressed_form (
    key      TEXT PRIMARY KEY CHECK (length(key) BETWEEN 8 AND 64),
    location TEXT NOT NULL,
    made_at  TEXT NOT NULL
) STRICT;

CREATE TABLE held_file (
    key     TEXT PRIMARY KEY,
    data    BLOB NOT NULL,
    made_at TEXT NOT NULL
) STRICT;

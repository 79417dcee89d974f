CREATE TABLE rule_set (
    name     TEXT PRIMARY KEY CHECK (name <> ''),
    document TEXT NOT NULL    CHECK (json_valid(document)),
    is_shops INTEGER NOT NULL DEFAULT 0 CHECK (is_shops IN (0, 1)),
    made_at  TEXT NOT NULL    CHECK (made_at LIKE '____-__-__T__:__:__%Z')
) STRICT;

CREATE UNIQUE INDEX rule_set_of_the_shop ON rule_set (is_shops) WHERE is_shops = 1;

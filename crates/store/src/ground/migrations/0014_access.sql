-- Who signs in, and with what. Of every secret only a hash is here.

-- People, keys of gateways and scripts, and programs: whatever acts.
ALTER TABLE people ADD COLUMN account TEXT NOT NULL DEFAULT 'person' CHECK (account IN ('person', 'key', 'program'));

CREATE TABLE passwords (
    person_id INTEGER PRIMARY KEY REFERENCES people,
    -- Argon2id in the PHC string format.
    hash TEXT NOT NULL,
    set_at INTEGER NOT NULL
) STRICT;

-- A code with which a person sets a password once.
CREATE TABLE reset_codes (
    person_id INTEGER PRIMARY KEY REFERENCES people,
    hash BLOB NOT NULL,
    until INTEGER NOT NULL
) STRICT;

CREATE TABLE sessions (
    id INTEGER PRIMARY KEY,
    hash BLOB NOT NULL UNIQUE,
    person_id INTEGER NOT NULL REFERENCES people,
    begun_at INTEGER NOT NULL,
    fresh_at INTEGER NOT NULL,
    seen_at INTEGER NOT NULL,
    address TEXT NOT NULL,
    device TEXT NOT NULL
) STRICT;
CREATE INDEX sessions_by_person ON sessions (person_id);

CREATE TABLE access_keys (
    -- The account that acts with it.
    person_id INTEGER PRIMARY KEY REFERENCES people,
    hash BLOB NOT NULL UNIQUE,
    -- The asset below which it reaches; everything without one.
    scope_id INTEGER REFERENCES assets,
    made_at INTEGER NOT NULL,
    made_by INTEGER NOT NULL REFERENCES people,
    expires_at INTEGER,
    used_at INTEGER,
    revoked_at INTEGER
) STRICT;

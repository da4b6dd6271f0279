-- Numbers by which people change places at devices that are set up to be shared.
CREATE TABLE pins (
    person_id INTEGER PRIMARY KEY REFERENCES people,
    -- Argon2id in the PHC string format.
    hash TEXT NOT NULL,
    set_at INTEGER NOT NULL,
    -- Tries in a row that were wrong.
    wrong INTEGER NOT NULL DEFAULT 0
) STRICT;

CREATE TABLE shared_devices (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL,
    -- Of the secret that the browser holds.
    hash BLOB NOT NULL UNIQUE,
    made_at INTEGER NOT NULL,
    made_by INTEGER NOT NULL REFERENCES people
) STRICT;

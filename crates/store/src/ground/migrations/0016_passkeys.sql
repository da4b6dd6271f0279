-- Passkeys (W3C Web Authentication): of each the public half, which is no secret.
CREATE TABLE passkeys (
    id INTEGER PRIMARY KEY,
    person_id INTEGER NOT NULL REFERENCES people,
    -- What the person calls it.
    name TEXT NOT NULL,
    -- The credential's id, by which a device names it.
    credential BLOB NOT NULL UNIQUE,
    -- Stands for the person towards devices: the same for all passkeys of one, and says nothing of them.
    handle BLOB NOT NULL,
    -- Its public key with what never changes, and what each use may change (its counter), as the library writes them.
    fixed BLOB NOT NULL,
    used BLOB NOT NULL,
    made_at INTEGER NOT NULL,
    used_at INTEGER
) STRICT;
CREATE INDEX passkeys_by_person ON passkeys (person_id);

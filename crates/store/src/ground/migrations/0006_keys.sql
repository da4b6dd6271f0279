-- Writes that their clients named by a key of their own, so that one sent again is not done again. The answer is kept as it
-- went out; NULL until it did.
CREATE TABLE write_keys (
    person_id INTEGER NOT NULL REFERENCES people,
    key TEXT NOT NULL,
    -- Of what was sent: another request under the same key is a mistake of its client.
    fingerprint TEXT NOT NULL,
    at INTEGER NOT NULL,
    status INTEGER,
    body TEXT,
    PRIMARY KEY (person_id, key)
) STRICT, WITHOUT ROWID;
CREATE INDEX write_keys_by_age ON write_keys (at);

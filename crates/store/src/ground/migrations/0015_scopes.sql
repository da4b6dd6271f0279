-- The assets that accounts and crews are given: below them they reach, and nowhere else. Who is given none reaches everything.
CREATE TABLE scopes (
    person_id INTEGER REFERENCES people,
    crew_id INTEGER REFERENCES crews,
    asset_id INTEGER NOT NULL REFERENCES assets,
    CHECK ((person_id IS NULL) <> (crew_id IS NULL))
) STRICT;
CREATE UNIQUE INDEX scopes_of_people ON scopes (person_id, asset_id) WHERE person_id IS NOT NULL;
CREATE UNIQUE INDEX scopes_of_crews ON scopes (crew_id, asset_id) WHERE crew_id IS NOT NULL;

INSERT INTO scopes (person_id, asset_id) SELECT person_id, scope_id FROM access_keys WHERE scope_id IS NOT NULL;

CREATE TABLE bounded_keys (
    -- The account that acts with it.
    person_id INTEGER PRIMARY KEY REFERENCES people,
    hash BLOB NOT NULL UNIQUE,
    made_at INTEGER NOT NULL,
    made_by INTEGER NOT NULL REFERENCES people,
    expires_at INTEGER,
    used_at INTEGER,
    revoked_at INTEGER
) STRICT;
INSERT INTO bounded_keys SELECT person_id, hash, made_at, made_by, expires_at, used_at, revoked_at FROM access_keys;
DROP TABLE access_keys;
ALTER TABLE bounded_keys RENAME TO access_keys;

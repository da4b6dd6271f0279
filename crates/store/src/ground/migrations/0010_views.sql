-- Views of lists that people keep under a name.
CREATE TABLE list_views (
    id INTEGER PRIMARY KEY,
    person_id INTEGER NOT NULL REFERENCES people,
    subject TEXT NOT NULL,
    name TEXT NOT NULL,
    -- Everybody has it.
    shared INTEGER NOT NULL,
    -- JSON of what is asked.
    definition TEXT NOT NULL,
    recorded_at INTEGER NOT NULL,
    UNIQUE (person_id, subject, name)
) STRICT;

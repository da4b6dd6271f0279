-- What several orders were before they were changed at once, and after, to be put back.
CREATE TABLE work_batches (
    -- Never given anew: an id names one for good.
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    at INTEGER NOT NULL,
    person_id INTEGER NOT NULL REFERENCES people,
    -- [{number, before, after}]
    orders TEXT NOT NULL
) STRICT;

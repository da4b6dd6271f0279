-- Addresses under which a calendar program reads somebody's work, or a crew's: with the eyes of whoever made them.
CREATE TABLE work_feeds (
    id INTEGER PRIMARY KEY,
    person_id INTEGER NOT NULL REFERENCES people,
    -- None: what is given to the person.
    crew_id INTEGER REFERENCES crews,
    hash BLOB NOT NULL UNIQUE,
    made_at INTEGER NOT NULL
) STRICT;
CREATE UNIQUE INDEX work_feeds_by_person ON work_feeds (person_id, ifnull(crew_id, 0));

-- Work that is reported again instead of being raised twice, and work that has to do with other work.

CREATE TABLE work_occurrences (
    -- Never given anew: an id names one report for good.
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    work_order INTEGER NOT NULL REFERENCES work_orders,
    at INTEGER NOT NULL,
    words TEXT NOT NULL,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people
) STRICT;
CREATE INDEX work_occurrences_by_work ON work_occurrences (work_order, at);
CREATE INDEX work_occurrences_by_person ON work_occurrences (recorded_by, work_order);

-- Each once, the lower number first.
CREATE TABLE work_links (
    one INTEGER NOT NULL REFERENCES work_orders,
    other INTEGER NOT NULL REFERENCES work_orders,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people,
    PRIMARY KEY (one, other),
    CHECK (one < other)
) STRICT, WITHOUT ROWID;
CREATE INDEX work_links_by_other ON work_links (other, one);

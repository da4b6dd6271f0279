-- Downtime that was deleted, with why, so that it can be put back; its id is given to no other.
CREATE TABLE removed_downtimes (
    removal INTEGER PRIMARY KEY,
    id INTEGER NOT NULL,
    asset_id INTEGER NOT NULL REFERENCES assets,
    work_order INTEGER REFERENCES work_orders,
    kind TEXT NOT NULL,
    start_at INTEGER NOT NULL,
    end_at INTEGER,
    share REAL NOT NULL,
    note TEXT NOT NULL,
    reason TEXT NOT NULL,
    removed_at INTEGER NOT NULL,
    removed_by INTEGER NOT NULL REFERENCES people
) STRICT;
CREATE INDEX removed_downtimes_by_id ON removed_downtimes (id);

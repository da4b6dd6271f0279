-- Time of a person that runs on an order, until it is stopped and becomes an entry.
CREATE TABLE running_time (
    person_id INTEGER PRIMARY KEY REFERENCES people,
    work_order INTEGER NOT NULL REFERENCES work_orders,
    started_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people
) STRICT;
CREATE INDEX running_time_by_work ON running_time (work_order);

-- Parts of the storeroom that are set aside for an order.
CREATE TABLE reserved_parts (
    work_order INTEGER NOT NULL REFERENCES work_orders,
    part_id INTEGER NOT NULL REFERENCES storeroom,
    quantity REAL NOT NULL,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people,
    PRIMARY KEY (work_order, part_id)
) STRICT, WITHOUT ROWID;
CREATE INDEX reserved_parts_by_part ON reserved_parts (part_id);

-- The part of the storeroom that an entry took from it; when the entry is taken back, the part is.
ALTER TABLE entries ADD COLUMN part_id INTEGER REFERENCES storeroom;
CREATE INDEX entries_by_part ON entries (part_id, work_order) WHERE part_id IS NOT NULL;

-- What people say about an order.
CREATE TABLE comments (
    id INTEGER PRIMARY KEY,
    work_order INTEGER NOT NULL REFERENCES work_orders,
    text TEXT NOT NULL,
    -- Only those who do or plan work read it.
    for_colleagues INTEGER NOT NULL,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people,
    removed_at INTEGER
) STRICT;
CREATE INDEX comments_by_work ON comments (work_order);

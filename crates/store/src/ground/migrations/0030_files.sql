-- Files that lie beside the database, each under the checksum of what it holds.
CREATE TABLE files (
    id INTEGER PRIMARY KEY,
    -- SHA-256 in hexadecimal digits.
    name TEXT NOT NULL UNIQUE,
    media_type TEXT NOT NULL,
    bytes INTEGER NOT NULL,
    -- Of a photo; none of a paper.
    width INTEGER,
    height INTEGER,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people
) STRICT;
CREATE INDEX files_by_age ON files (recorded_at);

-- Files that stand with an order.
CREATE TABLE attachments (
    id INTEGER PRIMARY KEY,
    work_order INTEGER NOT NULL REFERENCES work_orders,
    file_id INTEGER NOT NULL REFERENCES files,
    -- What it was called where it came from.
    name TEXT NOT NULL,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people,
    -- Taken away.
    removed_at INTEGER,
    removed_by INTEGER REFERENCES people
) STRICT;
CREATE INDEX attachments_of_work ON attachments (work_order);
CREATE INDEX attachments_of_file ON attachments (file_id);

-- Reusable descriptions of work. Each change is a version: work keeps the one that it took.
CREATE TABLE job_sheets (
    id INTEGER PRIMARY KEY,
    code TEXT NOT NULL UNIQUE,
    -- Of its newest version.
    title TEXT NOT NULL,
    status TEXT NOT NULL
) STRICT;

CREATE TABLE job_sheet_versions (
    id INTEGER PRIMARY KEY,
    sheet_id INTEGER NOT NULL REFERENCES job_sheets,
    number INTEGER NOT NULL,
    -- JSON of core's JobSheet.
    sheet TEXT NOT NULL,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people,
    UNIQUE (sheet_id, number)
) STRICT;

ALTER TABLE work_orders ADD COLUMN job_version_id INTEGER REFERENCES job_sheet_versions;
CREATE INDEX work_by_job ON work_orders (job_version_id) WHERE job_version_id IS NOT NULL;

-- Steps that were done and permits that were given on an order, by their place in the sheet.
CREATE TABLE job_ticks (
    work_order INTEGER NOT NULL REFERENCES work_orders,
    line TEXT NOT NULL,
    place INTEGER NOT NULL,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people,
    PRIMARY KEY (work_order, line, place)
) STRICT, WITHOUT ROWID;

ALTER TABLE upkeep_plans ADD COLUMN job_sheet_id INTEGER REFERENCES job_sheets;

-- Inspection forms. Each change is a version: what was filled in keeps the one that it was filled in by.
CREATE TABLE check_sheets (
    id INTEGER PRIMARY KEY,
    code TEXT NOT NULL UNIQUE,
    -- Of its newest version.
    title TEXT NOT NULL,
    status TEXT NOT NULL
) STRICT;

CREATE TABLE check_sheet_versions (
    id INTEGER PRIMARY KEY,
    sheet_id INTEGER NOT NULL REFERENCES check_sheets,
    number INTEGER NOT NULL,
    -- JSON of core's CheckSheet.
    sheet TEXT NOT NULL,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people,
    UNIQUE (sheet_id, number)
) STRICT;

-- Check sheets of orders, each for one asset: to be filled in, begun, or finished.
CREATE TABLE checks (
    id INTEGER PRIMARY KEY,
    work_order INTEGER NOT NULL REFERENCES work_orders,
    version_id INTEGER NOT NULL REFERENCES check_sheet_versions,
    asset_id INTEGER NOT NULL REFERENCES assets,
    -- The order's job sheet asks for it: it goes with that.
    of_job INTEGER NOT NULL,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people,
    -- JSON of core's answers, as far as it has come.
    answers TEXT NOT NULL,
    begun_at INTEGER,
    -- Who answered last, and when.
    answered_at INTEGER,
    answered_by INTEGER REFERENCES people,
    finished_at INTEGER,
    finished_by INTEGER REFERENCES people
) STRICT;
CREATE INDEX checks_of_work ON checks (work_order);
CREATE INDEX checks_of_asset ON checks (asset_id, finished_at);
CREATE INDEX checks_by_version ON checks (version_id);

-- Numbers that were answered, to be followed over time.
CREATE TABLE check_numbers (
    check_id INTEGER NOT NULL REFERENCES checks,
    question TEXT NOT NULL,
    at INTEGER NOT NULL,
    value REAL NOT NULL,
    PRIMARY KEY (check_id, question)
) STRICT, WITHOUT ROWID;

-- Files that answer a question.
CREATE TABLE check_files (
    check_id INTEGER NOT NULL REFERENCES checks,
    file_id INTEGER NOT NULL REFERENCES files,
    PRIMARY KEY (check_id, file_id)
) STRICT, WITHOUT ROWID;
CREATE INDEX check_files_of_file ON check_files (file_id);

-- The check that an answer rule raised work from.
ALTER TABLE work_orders ADD COLUMN source_check INTEGER REFERENCES checks;
CREATE INDEX work_by_source_check ON work_orders (source_check) WHERE source_check IS NOT NULL;

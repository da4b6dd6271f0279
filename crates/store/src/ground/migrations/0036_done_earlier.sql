-- What was done where there was no network is known later than it was done.
ALTER TABLE job_ticks ADD COLUMN at INTEGER NOT NULL DEFAULT 0;
UPDATE job_ticks SET at = recorded_at;
ALTER TABLE comments ADD COLUMN at INTEGER NOT NULL DEFAULT 0;
UPDATE comments SET at = recorded_at;

-- Pictures that help to answer the questions of a check sheet, of whatever version.
CREATE TABLE sheet_pictures (
    sheet_id INTEGER NOT NULL REFERENCES check_sheets,
    file_id INTEGER NOT NULL REFERENCES files,
    PRIMARY KEY (sheet_id, file_id)
) STRICT, WITHOUT ROWID;
CREATE INDEX sheet_pictures_of_file ON sheet_pictures (file_id);

-- What a crew or a person finished today is found without passing over all that they ever finished.
DROP INDEX work_by_crew;
CREATE INDEX work_by_crew ON work_orders (crew_id, state, state_since);
DROP INDEX work_by_assignee;
CREATE INDEX work_by_assignee ON work_orders (assignee_id, state, state_since) WHERE assignee_id IS NOT NULL;

-- What the filters of assets offer is counted in one pass over this.
CREATE INDEX assets_counted ON assets (kind, level, class_id, criticality, crew_id, retired_at) WHERE retired_at IS NULL;

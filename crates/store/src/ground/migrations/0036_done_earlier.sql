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

-- Steps of an order that were left out, with the reason; the others were done.
ALTER TABLE job_ticks ADD COLUMN skipped TEXT;

-- The step of the order's job sheet that a check sheet is filled in at, by its place.
ALTER TABLE checks ADD COLUMN step INTEGER;

-- Job sheets that are followed at the visits of a round, in the versions that the order took.
CREATE TABLE visit_jobs (
    work_order INTEGER NOT NULL REFERENCES work_orders,
    step INTEGER NOT NULL,
    version_id INTEGER NOT NULL REFERENCES job_sheet_versions,
    PRIMARY KEY (work_order, step)
) STRICT, WITHOUT ROWID;

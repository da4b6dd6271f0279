-- What answers of check sheets found, and the order that each raised or joined.
CREATE TABLE check_findings (
    check_id INTEGER NOT NULL REFERENCES checks,
    -- Key of the question.
    question TEXT NOT NULL,
    work_order INTEGER NOT NULL REFERENCES work_orders,
    PRIMARY KEY (check_id, question)
) STRICT, WITHOUT ROWID;
CREATE INDEX check_findings_by_work ON check_findings (work_order);

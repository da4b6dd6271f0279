-- What rungs handed up to a person to decide, and what they answered.
CREATE TABLE risk_decisions (
    -- Never given anew: an id names one for good.
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    work_order INTEGER NOT NULL REFERENCES work_orders,
    meter_id INTEGER NOT NULL REFERENCES meters,
    side TEXT NOT NULL,
    severity INTEGER NOT NULL,
    person_id INTEGER NOT NULL REFERENCES people,
    asked_at INTEGER NOT NULL,
    answer TEXT,
    until INTEGER,
    reason TEXT,
    answered_at INTEGER,
    answered_by INTEGER REFERENCES people
) STRICT;
CREATE INDEX risk_decisions_by_work ON risk_decisions (work_order);
CREATE INDEX risk_decisions_open ON risk_decisions (asked_at) WHERE answer IS NULL;
CREATE INDEX risk_decisions_run_on ON risk_decisions (meter_id, side, until) WHERE answer = 'run_on';

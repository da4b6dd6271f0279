-- Alarms answer again, meters fall silent, and people are told.

-- The table anew, because a silent meter's alarm has no rung.
CREATE TABLE alarms_anew (
    id INTEGER PRIMARY KEY,
    meter_id INTEGER NOT NULL REFERENCES meters,
    -- limit, silent.
    kind TEXT NOT NULL DEFAULT 'limit',
    -- NULL, as rung and side, for a silent meter.
    version_id INTEGER REFERENCES ladder_versions,
    -- Place in the version's list of rungs.
    rung INTEGER,
    side TEXT,
    severity INTEGER NOT NULL,
    entered_at INTEGER NOT NULL,
    -- The reading's value; of a silent meter its last, NULL where there is none.
    value REAL,
    -- What a rung on a rate or a change looked at; NULL for one on the value itself.
    looked_at REAL,
    left_at INTEGER,
    -- Why it ended: readings, limits_changed.
    left_by TEXT,
    acknowledged_at INTEGER,
    acknowledged_by INTEGER REFERENCES people,
    -- The newest answer: recorded (another rung responded), record, notify, held, joined, escalated, raised.
    response TEXT NOT NULL,
    answered_at INTEGER NOT NULL,
    -- JSON of core's HeldBy.
    held_by TEXT,
    work_order INTEGER REFERENCES work_orders,
    -- When a standing alarm responds again; NULL while it waits for work, or for nothing.
    due_at INTEGER,
    recorded_at INTEGER NOT NULL
) STRICT;
INSERT INTO alarms_anew (id, meter_id, version_id, rung, side, severity, entered_at, value, left_at, left_by,
    acknowledged_at, acknowledged_by, response, answered_at, held_by, work_order, due_at, recorded_at)
SELECT a.id, a.meter_id, a.version_id, a.rung, a.side, a.severity, a.entered_at, a.value, a.left_at, a.left_by,
    a.acknowledged_at, a.acknowledged_by, a.response, a.entered_at, a.held_by, a.work_order,
    CASE WHEN a.left_at IS NOT NULL THEN NULL
         WHEN a.response = 'held' THEN CAST(unixepoch(json_extract(a.held_by, '$.until')) AS INTEGER) * 1000
         WHEN w.state IN ('done', 'returned', 'closed', 'dropped') THEN max(w.state_since, a.entered_at) END,
    a.recorded_at
FROM alarms a LEFT JOIN work_orders w ON w.number = a.work_order;
DROP TABLE alarms;
ALTER TABLE alarms_anew RENAME TO alarms;
CREATE INDEX alarms_by_meter ON alarms (meter_id, entered_at);
CREATE INDEX alarms_standing ON alarms (meter_id, rung) WHERE left_at IS NULL;
CREATE INDEX alarms_by_work ON alarms (work_order) WHERE work_order IS NOT NULL;
CREATE INDEX alarms_by_time ON alarms (entered_at);
CREATE INDEX alarms_due ON alarms (due_at) WHERE left_at IS NULL AND due_at IS NOT NULL;

-- Answers an alarm gave before its newest.
CREATE TABLE earlier_answers (
    alarm_id INTEGER NOT NULL REFERENCES alarms,
    at INTEGER NOT NULL,
    response TEXT NOT NULL,
    held_by TEXT,
    work_order INTEGER REFERENCES work_orders,
    PRIMARY KEY (alarm_id, at)
) STRICT, WITHOUT ROWID;

-- Late readings beyond a rung, for a person to judge.
CREATE TABLE late_beyond (
    id INTEGER PRIMARY KEY,
    meter_id INTEGER NOT NULL REFERENCES meters,
    at INTEGER NOT NULL,
    value REAL NOT NULL,
    -- As it is called, such as alert high.
    rung TEXT NOT NULL,
    severity INTEGER NOT NULL,
    recorded_at INTEGER NOT NULL,
    -- NULL until somebody has judged it.
    judgement TEXT,
    judged_at INTEGER,
    judged_by INTEGER REFERENCES people
) STRICT;
CREATE INDEX late_beyond_open ON late_beyond (meter_id) WHERE judged_at IS NULL;

-- Where mail goes; NULL for somebody who reads it here.
ALTER TABLE people ADD COLUMN mail TEXT;

-- Mail to people, written in the transaction of what it tells of and sent by a job afterwards.
CREATE TABLE outbox (
    id INTEGER PRIMARY KEY,
    at INTEGER NOT NULL,
    person_id INTEGER NOT NULL REFERENCES people,
    subject TEXT NOT NULL,
    body TEXT NOT NULL,
    meter_id INTEGER REFERENCES meters,
    work_order INTEGER REFERENCES work_orders,
    -- NULL until its file is written.
    sent_at INTEGER,
    file TEXT
) STRICT;
CREATE INDEX outbox_unsent ON outbox (id) WHERE sent_at IS NULL;
CREATE INDEX outbox_by_work ON outbox (work_order) WHERE work_order IS NOT NULL;

-- The second engineer, where one was needed.
ALTER TABLE ladder_versions ADD COLUMN approved_by INTEGER REFERENCES people;

-- A version that waits for a second engineer.
CREATE TABLE proposed_ladders (
    meter_id INTEGER PRIMARY KEY REFERENCES meters,
    reason TEXT NOT NULL,
    -- JSON of core's Ladder.
    definition TEXT NOT NULL,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people
) STRICT;

-- Older readings of one meter, column by column. Those of a meter do not overlap.
CREATE TABLE reading_blocks (
    id INTEGER PRIMARY KEY,
    meter_id INTEGER NOT NULL,
    -- Instants of the first and the last reading in it.
    from_at INTEGER NOT NULL,
    to_at INTEGER NOT NULL,
    readings INTEGER NOT NULL,
    columns BLOB NOT NULL
) STRICT;
CREATE UNIQUE INDEX blocks_by_meter ON reading_blocks (meter_id, from_at);

-- Kept with the readings in one transaction, so that nothing is counted by looking.
CREATE TABLE reading_counts (
    meter_id INTEGER PRIMARY KEY REFERENCES meters,
    -- All that are kept, and those of them that are rows.
    readings INTEGER NOT NULL,
    in_rows INTEGER NOT NULL,
    -- Goes up when something other than a newer reading was added.
    revised INTEGER NOT NULL DEFAULT 0
) STRICT;
INSERT INTO reading_counts (meter_id, readings, in_rows)
SELECT meter_id, count(*), count(*) FROM readings GROUP BY meter_id;

-- Ladders written once for the meters of one name on assets of one class.
CREATE TABLE family_ladders (
    class_id INTEGER NOT NULL REFERENCES equipment_classes,
    meter_name TEXT NOT NULL,
    number INTEGER NOT NULL,
    reason TEXT NOT NULL,
    -- JSON of core's Ladder.
    definition TEXT NOT NULL,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people,
    PRIMARY KEY (class_id, meter_name, number)
) STRICT;
CREATE INDEX meters_by_name ON meters (name);

-- Names that outside systems have for meters, and how their values become the meter's.
CREATE TABLE meter_tags (
    tag TEXT PRIMARY KEY,
    meter_id INTEGER NOT NULL REFERENCES meters,
    -- UCUM code of what comes in; the meter's own where it is the same.
    unit TEXT NOT NULL
) STRICT, WITHOUT ROWID;
CREATE INDEX tags_by_meter ON meter_tags (meter_id);

-- The number that another system has for this work.
ALTER TABLE work_orders ADD COLUMN reference TEXT;

-- Addresses that are told of events.
CREATE TABLE webhooks (
    id INTEGER PRIMARY KEY,
    url TEXT NOT NULL,
    secret TEXT NOT NULL,
    active INTEGER NOT NULL DEFAULT 1,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people
) STRICT;

-- What happened, for them; its id is how a receiver knows it again.
CREATE TABLE events (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    at INTEGER NOT NULL,
    kind TEXT NOT NULL,
    payload TEXT NOT NULL
) STRICT;

CREATE TABLE deliveries (
    id INTEGER PRIMARY KEY,
    webhook_id INTEGER NOT NULL REFERENCES webhooks,
    event_id INTEGER NOT NULL REFERENCES events,
    attempts INTEGER NOT NULL DEFAULT 0,
    -- When to try (again); NULL when it was delivered or given up.
    next_at INTEGER,
    delivered_at INTEGER,
    last_error TEXT,
    UNIQUE (webhook_id, event_id)
) STRICT;
CREATE INDEX deliveries_due ON deliveries (next_at) WHERE next_at IS NOT NULL;

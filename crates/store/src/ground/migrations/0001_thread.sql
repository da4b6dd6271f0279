-- Instants are UTC milliseconds. Money is whole minor units. Enums are the words of the API.
-- An open end is NULL; `recorded_at` says when a fact became known, `at` when it was so.

CREATE TABLE settings (
    key TEXT PRIMARY KEY,
    value TEXT NOT NULL
) STRICT, WITHOUT ROWID;

CREATE TABLE crews (
    id INTEGER PRIMARY KEY,
    code TEXT NOT NULL UNIQUE,
    name TEXT NOT NULL,
    department TEXT NOT NULL,
    weekly_hours REAL NOT NULL DEFAULT 0
) STRICT;

CREATE TABLE people (
    id INTEGER PRIMARY KEY,
    code TEXT NOT NULL UNIQUE,
    name TEXT NOT NULL,
    role TEXT NOT NULL,
    crew_id INTEGER REFERENCES crews,
    -- Minor units per hour; NULL where the person reports no hours.
    rate INTEGER,
    active INTEGER NOT NULL DEFAULT 1
) STRICT;

CREATE TABLE equipment_classes (
    id INTEGER PRIMARY KEY,
    code TEXT NOT NULL UNIQUE,
    name TEXT NOT NULL
) STRICT;

CREATE TABLE assets (
    id INTEGER PRIMARY KEY,
    code TEXT NOT NULL UNIQUE,
    name TEXT NOT NULL,
    kind TEXT NOT NULL,
    level TEXT NOT NULL,
    class_id INTEGER REFERENCES equipment_classes,
    maker TEXT,
    model TEXT,
    serial TEXT,
    tags TEXT NOT NULL DEFAULT '[]',
    -- NULL: since before anything was recorded, or still in use.
    commissioned_at INTEGER,
    retired_at INTEGER,
    replacement_value INTEGER,
    -- Minor units per hour of unplanned downtime.
    downtime_cost INTEGER,
    criticality TEXT,
    crew_id INTEGER REFERENCES crews,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people
) STRICT;

CREATE TABLE old_asset_codes (
    code TEXT PRIMARY KEY,
    asset_id INTEGER NOT NULL REFERENCES assets
) STRICT, WITHOUT ROWID;

CREATE TABLE placements (
    asset_id INTEGER NOT NULL REFERENCES assets,
    -- NULL for a root.
    parent_id INTEGER REFERENCES assets,
    from_at INTEGER NOT NULL,
    to_at INTEGER,
    reason TEXT NOT NULL,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people,
    PRIMARY KEY (asset_id, from_at)
) STRICT, WITHOUT ROWID;
CREATE INDEX placements_now ON placements (parent_id, asset_id) WHERE to_at IS NULL;

CREATE TABLE parent_effects (
    asset_id INTEGER NOT NULL REFERENCES assets,
    from_at INTEGER NOT NULL,
    to_at INTEGER,
    -- JSON of core's ParentEffect.
    effect TEXT NOT NULL,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people,
    PRIMARY KEY (asset_id, from_at)
) STRICT, WITHOUT ROWID;

CREATE TABLE calendars (
    id INTEGER PRIMARY KEY,
    code TEXT NOT NULL UNIQUE,
    name TEXT NOT NULL,
    -- JSON of core's Calendar.
    definition TEXT NOT NULL
) STRICT;

CREATE TABLE asset_calendars (
    asset_id INTEGER NOT NULL REFERENCES assets,
    calendar_id INTEGER NOT NULL REFERENCES calendars,
    from_at INTEGER NOT NULL,
    to_at INTEGER,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people,
    PRIMARY KEY (asset_id, from_at)
) STRICT, WITHOUT ROWID;

CREATE TABLE meters (
    id INTEGER PRIMARY KEY,
    code TEXT NOT NULL UNIQUE,
    asset_id INTEGER NOT NULL REFERENCES assets,
    name TEXT NOT NULL,
    kind TEXT NOT NULL,
    unit TEXT NOT NULL,
    resolution REAL NOT NULL DEFAULT 0,
    rollover_at REAL,
    greatest_rate REAL,
    plausible_low REAL,
    plausible_high REAL,
    grades TEXT NOT NULL DEFAULT '[]',
    longest_silence_s INTEGER,
    -- A counter whose hours are the asset's operating time.
    running_hours INTEGER NOT NULL DEFAULT 0,
    retired_at INTEGER,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people
) STRICT;
CREATE INDEX meters_by_asset ON meters (asset_id);

CREATE TABLE meter_exchanges (
    meter_id INTEGER NOT NULL REFERENCES meters,
    at INTEGER NOT NULL,
    final_value REAL NOT NULL,
    start_value REAL NOT NULL,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people,
    PRIMARY KEY (meter_id, at)
) STRICT, WITHOUT ROWID;

-- What came together, from whom and where from: said once for all its readings.
CREATE TABLE batches (
    id INTEGER PRIMARY KEY,
    source TEXT NOT NULL,
    name TEXT,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people
) STRICT;

CREATE TABLE readings (
    meter_id INTEGER NOT NULL,
    at INTEGER NOT NULL,
    value REAL NOT NULL,
    batch_id INTEGER NOT NULL,
    -- 1 late, 2 quarantined.
    flags INTEGER NOT NULL,
    PRIMARY KEY (meter_id, at)
) STRICT, WITHOUT ROWID;

CREATE TABLE voided_readings (
    id INTEGER PRIMARY KEY,
    meter_id INTEGER NOT NULL REFERENCES meters,
    at INTEGER NOT NULL,
    value REAL NOT NULL,
    batch_id INTEGER NOT NULL REFERENCES batches,
    flags INTEGER NOT NULL,
    reason TEXT NOT NULL,
    voided_at INTEGER NOT NULL,
    voided_by INTEGER NOT NULL REFERENCES people
) STRICT;

CREATE TABLE ladder_versions (
    id INTEGER PRIMARY KEY,
    meter_id INTEGER NOT NULL REFERENCES meters,
    number INTEGER NOT NULL,
    starts_at INTEGER NOT NULL,
    reason TEXT NOT NULL,
    -- JSON of core's Ladder.
    definition TEXT NOT NULL,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people,
    UNIQUE (meter_id, number)
) STRICT;

-- Where the newest version's machine stands; a row only while some rung is entered or some timer runs.
CREATE TABLE ladder_states (
    meter_id INTEGER PRIMARY KEY REFERENCES meters,
    version_id INTEGER NOT NULL REFERENCES ladder_versions,
    states TEXT NOT NULL
) STRICT;

CREATE TABLE shelves (
    id INTEGER PRIMARY KEY,
    meter_id INTEGER NOT NULL REFERENCES meters,
    from_at INTEGER NOT NULL,
    to_at INTEGER NOT NULL,
    reason TEXT NOT NULL,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people
) STRICT;
CREATE INDEX shelves_by_meter ON shelves (meter_id, to_at);

CREATE TABLE work_orders (
    number INTEGER PRIMARY KEY,
    title TEXT NOT NULL,
    text TEXT NOT NULL,
    kind TEXT NOT NULL,
    asset_id INTEGER NOT NULL REFERENCES assets,
    -- person, ladder, and what later issues add.
    source TEXT NOT NULL,
    -- Work that a ladder raised: by which meter and side, the worst severity so far, and the reading's instant.
    source_meter_id INTEGER REFERENCES meters,
    source_side TEXT,
    source_severity INTEGER,
    source_at INTEGER,
    raised_at INTEGER NOT NULL,
    raised_by INTEGER NOT NULL REFERENCES people,
    recorded_at INTEGER NOT NULL,
    risk_rank INTEGER NOT NULL,
    window_end INTEGER NOT NULL,
    target_start INTEGER,
    target_finish INTEGER,
    scheduled_start INTEGER,
    scheduled_end INTEGER,
    crew_id INTEGER REFERENCES crews,
    department TEXT,
    assignee_id INTEGER REFERENCES people,
    estimated_hours REAL,
    state TEXT NOT NULL,
    state_since INTEGER NOT NULL,
    waiting_from TEXT,
    waiting_for TEXT,
    expected_until INTEGER,
    question TEXT,
    asked_id INTEGER REFERENCES people,
    verdict TEXT,
    -- Sums of its entries, kept with them in one transaction.
    spent_ms INTEGER NOT NULL DEFAULT 0,
    cost INTEGER NOT NULL DEFAULT 0
) STRICT;
CREATE INDEX work_by_asset ON work_orders (asset_id, raised_at);
CREATE INDEX work_by_state ON work_orders (state, risk_rank, window_end);
CREATE INDEX work_by_source ON work_orders (source_meter_id, source_at);

CREATE TABLE alarms (
    id INTEGER PRIMARY KEY,
    meter_id INTEGER NOT NULL REFERENCES meters,
    version_id INTEGER NOT NULL REFERENCES ladder_versions,
    -- Place in the version's list of rungs.
    rung INTEGER NOT NULL,
    side TEXT NOT NULL,
    severity INTEGER NOT NULL,
    entered_at INTEGER NOT NULL,
    value REAL NOT NULL,
    left_at INTEGER,
    -- Why it ended: readings, limits_changed.
    left_by TEXT,
    acknowledged_at INTEGER,
    acknowledged_by INTEGER REFERENCES people,
    -- recorded (another rung responded), record, notify, held, joined, escalated, raised.
    response TEXT NOT NULL,
    -- JSON of core's HeldBy.
    held_by TEXT,
    work_order INTEGER REFERENCES work_orders,
    recorded_at INTEGER NOT NULL
) STRICT;
CREATE INDEX alarms_by_meter ON alarms (meter_id, entered_at);
CREATE INDEX alarms_standing ON alarms (meter_id, rung) WHERE left_at IS NULL;
CREATE INDEX alarms_by_work ON alarms (work_order) WHERE work_order IS NOT NULL;

CREATE TABLE state_changes (
    id INTEGER PRIMARY KEY,
    work_order INTEGER NOT NULL REFERENCES work_orders,
    -- NULL for the state it was raised in.
    from_state TEXT,
    to_state TEXT NOT NULL,
    at INTEGER NOT NULL,
    note TEXT,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people
) STRICT;
CREATE INDEX state_changes_by_work ON state_changes (work_order, at, id);

CREATE TABLE entries (
    id INTEGER PRIMARY KEY,
    work_order INTEGER NOT NULL REFERENCES work_orders,
    asset_id INTEGER NOT NULL REFERENCES assets,
    kind TEXT NOT NULL,
    at INTEGER NOT NULL,
    person_id INTEGER REFERENCES people,
    -- Decimals as text: hours or pieces, and minor units each.
    quantity TEXT NOT NULL,
    unit_price TEXT NOT NULL,
    amount INTEGER NOT NULL,
    hours_ms INTEGER NOT NULL,
    description TEXT NOT NULL,
    reverses INTEGER UNIQUE REFERENCES entries,
    -- Entered after the work was closed.
    adjustment INTEGER NOT NULL DEFAULT 0,
    -- NULL while provisional.
    settled_at INTEGER,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people
) STRICT;
CREATE INDEX entries_by_work ON entries (work_order);

CREATE TABLE downtimes (
    id INTEGER PRIMARY KEY,
    asset_id INTEGER NOT NULL REFERENCES assets,
    work_order INTEGER REFERENCES work_orders,
    kind TEXT NOT NULL,
    start_at INTEGER NOT NULL,
    end_at INTEGER,
    -- 1 is a stop; less is slowed by that share.
    share REAL NOT NULL DEFAULT 1,
    note TEXT NOT NULL DEFAULT '',
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people
) STRICT;
CREATE INDEX downtimes_by_work ON downtimes (work_order);
CREATE INDEX downtimes_by_asset ON downtimes (asset_id, start_at);

CREATE TABLE codebooks (
    id INTEGER PRIMARY KEY,
    code TEXT NOT NULL UNIQUE,
    name TEXT NOT NULL,
    class_id INTEGER REFERENCES equipment_classes,
    status TEXT NOT NULL DEFAULT 'active'
) STRICT;

CREATE TABLE codes (
    id INTEGER PRIMARY KEY,
    codebook_id INTEGER NOT NULL REFERENCES codebooks,
    -- NULL for a problem.
    parent_id INTEGER REFERENCES codes,
    level TEXT NOT NULL,
    code TEXT NOT NULL,
    name TEXT NOT NULL,
    renews INTEGER NOT NULL DEFAULT 0,
    status TEXT NOT NULL DEFAULT 'active',
    place INTEGER NOT NULL,
    merged_into INTEGER REFERENCES codes
) STRICT;
CREATE UNIQUE INDEX codes_by_place ON codes (codebook_id, ifnull(parent_id, 0), code);

CREATE TABLE failure_reports (
    id INTEGER PRIMARY KEY,
    work_order INTEGER NOT NULL REFERENCES work_orders,
    asset_id INTEGER NOT NULL REFERENCES assets,
    codebook_id INTEGER REFERENCES codebooks,
    problem_id INTEGER REFERENCES codes,
    cause_id INTEGER REFERENCES codes,
    remedy_id INTEGER REFERENCES codes,
    failed_at INTEGER NOT NULL,
    noticed TEXT,
    effect TEXT NOT NULL,
    -- When the last of problem, cause and remedy was given.
    coded_at INTEGER,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people
) STRICT;
CREATE UNIQUE INDEX failures_by_work ON failure_reports (work_order);

CREATE TABLE audit (
    id INTEGER PRIMARY KEY,
    at INTEGER NOT NULL,
    person_id INTEGER NOT NULL REFERENCES people,
    action TEXT NOT NULL,
    subject_kind TEXT NOT NULL,
    subject TEXT NOT NULL,
    detail TEXT NOT NULL
) STRICT;
CREATE INDEX audit_by_subject ON audit (subject_kind, subject);

-- What the tally's snapshot must read again, in the order it changed.
CREATE TABLE changes (
    seq INTEGER PRIMARY KEY AUTOINCREMENT,
    kind TEXT NOT NULL,
    id INTEGER NOT NULL
) STRICT;

CREATE TRIGGER assets_added AFTER INSERT ON assets BEGIN
    INSERT INTO changes (kind, id) VALUES ('tree', NEW.id); END;
CREATE TRIGGER assets_changed AFTER UPDATE ON assets BEGIN
    INSERT INTO changes (kind, id) VALUES ('tree', NEW.id); END;
CREATE TRIGGER placements_added AFTER INSERT ON placements BEGIN
    INSERT INTO changes (kind, id) VALUES ('tree', NEW.asset_id); END;
CREATE TRIGGER placements_changed AFTER UPDATE ON placements BEGIN
    INSERT INTO changes (kind, id) VALUES ('tree', NEW.asset_id); END;
CREATE TRIGGER placements_gone AFTER DELETE ON placements BEGIN
    INSERT INTO changes (kind, id) VALUES ('tree', OLD.asset_id); END;
CREATE TRIGGER effects_added AFTER INSERT ON parent_effects BEGIN
    INSERT INTO changes (kind, id) VALUES ('tree', NEW.asset_id); END;
CREATE TRIGGER effects_changed AFTER UPDATE ON parent_effects BEGIN
    INSERT INTO changes (kind, id) VALUES ('tree', NEW.asset_id); END;
CREATE TRIGGER effects_gone AFTER DELETE ON parent_effects BEGIN
    INSERT INTO changes (kind, id) VALUES ('tree', OLD.asset_id); END;
CREATE TRIGGER calendars_added AFTER INSERT ON calendars BEGIN
    INSERT INTO changes (kind, id) VALUES ('tree', NEW.id); END;
CREATE TRIGGER calendars_changed AFTER UPDATE ON calendars BEGIN
    INSERT INTO changes (kind, id) VALUES ('tree', NEW.id); END;
CREATE TRIGGER asset_calendars_added AFTER INSERT ON asset_calendars BEGIN
    INSERT INTO changes (kind, id) VALUES ('tree', NEW.asset_id); END;
CREATE TRIGGER asset_calendars_changed AFTER UPDATE ON asset_calendars BEGIN
    INSERT INTO changes (kind, id) VALUES ('tree', NEW.asset_id); END;
CREATE TRIGGER asset_calendars_gone AFTER DELETE ON asset_calendars BEGIN
    INSERT INTO changes (kind, id) VALUES ('tree', OLD.asset_id); END;
CREATE TRIGGER settings_added AFTER INSERT ON settings BEGIN
    INSERT INTO changes (kind, id) VALUES ('tree', 0); END;
CREATE TRIGGER settings_changed AFTER UPDATE ON settings BEGIN
    INSERT INTO changes (kind, id) VALUES ('tree', 0); END;
CREATE TRIGGER entries_added AFTER INSERT ON entries BEGIN
    INSERT INTO changes (kind, id) VALUES ('entry', NEW.id); END;
CREATE TRIGGER entries_changed AFTER UPDATE ON entries BEGIN
    INSERT INTO changes (kind, id) VALUES ('entry', NEW.id); END;
CREATE TRIGGER downtimes_added AFTER INSERT ON downtimes BEGIN
    INSERT INTO changes (kind, id) VALUES ('downtime', NEW.id); END;
CREATE TRIGGER downtimes_changed AFTER UPDATE ON downtimes BEGIN
    INSERT INTO changes (kind, id) VALUES ('downtime', NEW.id); END;
CREATE TRIGGER downtimes_gone AFTER DELETE ON downtimes BEGIN
    INSERT INTO changes (kind, id) VALUES ('downtime', OLD.id); END;
CREATE TRIGGER failures_added AFTER INSERT ON failure_reports BEGIN
    INSERT INTO changes (kind, id) VALUES ('failure', NEW.id); END;
CREATE TRIGGER failures_changed AFTER UPDATE ON failure_reports BEGIN
    INSERT INTO changes (kind, id) VALUES ('failure', NEW.id); END;
CREATE TRIGGER work_added AFTER INSERT ON state_changes BEGIN
    INSERT INTO changes (kind, id) VALUES ('work', NEW.work_order); END;
CREATE TRIGGER work_planned AFTER UPDATE OF asset_id, estimated_hours ON work_orders BEGIN
    INSERT INTO changes (kind, id) VALUES ('work', NEW.number); END;

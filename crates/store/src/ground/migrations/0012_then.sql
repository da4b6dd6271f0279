-- What was true and known at a past instant: fields of work with their dates, rows as they were before they were changed, and
-- alarms among the facts.

-- What fields of work were before each change. Since when those it has now hold stands with the work; NULL since it was raised.
ALTER TABLE work_orders ADD COLUMN fields_since INTEGER;
ALTER TABLE work_orders ADD COLUMN fields_recorded_at INTEGER;
ALTER TABLE work_orders ADD COLUMN fields_recorded_by INTEGER REFERENCES people;
CREATE TABLE former_fields (
    id INTEGER PRIMARY KEY,
    work_order INTEGER NOT NULL REFERENCES work_orders,
    since INTEGER NOT NULL,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people,
    asset_id INTEGER NOT NULL REFERENCES assets,
    kind TEXT NOT NULL,
    source_severity INTEGER,
    risk_rank INTEGER NOT NULL,
    window_end INTEGER NOT NULL,
    target_start INTEGER,
    target_finish INTEGER,
    scheduled_start INTEGER,
    scheduled_end INTEGER,
    crew_id INTEGER REFERENCES crews,
    department TEXT,
    assignee_id INTEGER REFERENCES people,
    estimated_hours REAL
) STRICT;
CREATE INDEX former_fields_by_work ON former_fields (work_order, id);

CREATE TRIGGER fields_changed AFTER UPDATE OF
    asset_id, kind, source_severity, risk_rank, window_end, target_start, target_finish, scheduled_start,
    scheduled_end, crew_id, department, assignee_id, estimated_hours
ON work_orders WHEN
    NEW.asset_id IS NOT OLD.asset_id OR NEW.kind IS NOT OLD.kind OR NEW.source_severity IS NOT OLD.source_severity OR
    NEW.risk_rank IS NOT OLD.risk_rank OR NEW.window_end IS NOT OLD.window_end OR
    NEW.target_start IS NOT OLD.target_start OR NEW.target_finish IS NOT OLD.target_finish OR
    NEW.scheduled_start IS NOT OLD.scheduled_start OR NEW.scheduled_end IS NOT OLD.scheduled_end OR
    NEW.crew_id IS NOT OLD.crew_id OR NEW.department IS NOT OLD.department OR
    NEW.assignee_id IS NOT OLD.assignee_id OR NEW.estimated_hours IS NOT OLD.estimated_hours
BEGIN
    INSERT INTO former_fields (work_order, since, recorded_at, recorded_by,
        asset_id, kind, source_severity, risk_rank, window_end, target_start, target_finish, scheduled_start,
        scheduled_end, crew_id, department, assignee_id, estimated_hours)
    VALUES (OLD.number, ifnull(OLD.fields_since, OLD.raised_at), ifnull(OLD.fields_recorded_at, OLD.recorded_at),
        ifnull(OLD.fields_recorded_by, OLD.raised_by),
        OLD.asset_id, OLD.kind, OLD.source_severity, OLD.risk_rank, OLD.window_end, OLD.target_start,
        OLD.target_finish, OLD.scheduled_start, OLD.scheduled_end, OLD.crew_id, OLD.department, OLD.assignee_id,
        OLD.estimated_hours);
END;

-- What work waited for, at each move to waiting.
ALTER TABLE state_changes ADD COLUMN waiting_for TEXT;
UPDATE state_changes SET waiting_for = (SELECT w.waiting_for FROM work_orders w WHERE w.number = work_order)
WHERE to_state = 'waiting'
    AND id = (SELECT s.id FROM state_changes s WHERE s.work_order = state_changes.work_order ORDER BY s.at DESC, s.id DESC LIMIT 1);
DROP INDEX state_changes_by_work;
CREATE INDEX state_changes_by_work ON state_changes (work_order, at, id, to_state, recorded_at, waiting_for);

-- When the newest transaction was, for the triggers below.
CREATE TABLE newest_write (
    id INTEGER PRIMARY KEY CHECK (id = 1),
    at INTEGER NOT NULL
) STRICT;
INSERT INTO newest_write (id, at) VALUES (1, 0);

-- Rows as they were before they were changed or taken away, and until when that was all that was known.

CREATE TABLE former_placements (
    former INTEGER PRIMARY KEY,
    known_until INTEGER NOT NULL,
    asset_id INTEGER NOT NULL REFERENCES assets,
    parent_id INTEGER REFERENCES assets,
    from_at INTEGER NOT NULL,
    to_at INTEGER,
    recorded_at INTEGER NOT NULL
) STRICT;
CREATE INDEX former_placements_by_time ON former_placements (known_until);
CREATE TRIGGER placements_were AFTER UPDATE ON placements BEGIN
    INSERT INTO former_placements (known_until, asset_id, parent_id, from_at, to_at, recorded_at)
    SELECT at, OLD.asset_id, OLD.parent_id, OLD.from_at, OLD.to_at, OLD.recorded_at FROM newest_write;
END;
CREATE TRIGGER placements_went AFTER DELETE ON placements BEGIN
    INSERT INTO former_placements (known_until, asset_id, parent_id, from_at, to_at, recorded_at)
    SELECT at, OLD.asset_id, OLD.parent_id, OLD.from_at, OLD.to_at, OLD.recorded_at FROM newest_write;
END;

CREATE TABLE former_parent_effects (
    former INTEGER PRIMARY KEY,
    known_until INTEGER NOT NULL,
    asset_id INTEGER NOT NULL REFERENCES assets,
    effect TEXT NOT NULL,
    from_at INTEGER NOT NULL,
    to_at INTEGER,
    recorded_at INTEGER NOT NULL
) STRICT;
CREATE INDEX former_parent_effects_by_time ON former_parent_effects (known_until);
CREATE TRIGGER parent_effects_were AFTER UPDATE ON parent_effects BEGIN
    INSERT INTO former_parent_effects (known_until, asset_id, effect, from_at, to_at, recorded_at)
    SELECT at, OLD.asset_id, OLD.effect, OLD.from_at, OLD.to_at, OLD.recorded_at FROM newest_write;
END;
CREATE TRIGGER parent_effects_went AFTER DELETE ON parent_effects BEGIN
    INSERT INTO former_parent_effects (known_until, asset_id, effect, from_at, to_at, recorded_at)
    SELECT at, OLD.asset_id, OLD.effect, OLD.from_at, OLD.to_at, OLD.recorded_at FROM newest_write;
END;

CREATE TABLE former_asset_calendars (
    former INTEGER PRIMARY KEY,
    known_until INTEGER NOT NULL,
    asset_id INTEGER NOT NULL REFERENCES assets,
    calendar_id INTEGER NOT NULL REFERENCES calendars,
    from_at INTEGER NOT NULL,
    to_at INTEGER,
    recorded_at INTEGER NOT NULL
) STRICT;
CREATE INDEX former_asset_calendars_by_time ON former_asset_calendars (known_until);
CREATE TRIGGER asset_calendars_were AFTER UPDATE ON asset_calendars BEGIN
    INSERT INTO former_asset_calendars (known_until, asset_id, calendar_id, from_at, to_at, recorded_at)
    SELECT at, OLD.asset_id, OLD.calendar_id, OLD.from_at, OLD.to_at, OLD.recorded_at FROM newest_write;
END;
CREATE TRIGGER asset_calendars_went AFTER DELETE ON asset_calendars BEGIN
    INSERT INTO former_asset_calendars (known_until, asset_id, calendar_id, from_at, to_at, recorded_at)
    SELECT at, OLD.asset_id, OLD.calendar_id, OLD.from_at, OLD.to_at, OLD.recorded_at FROM newest_write;
END;

CREATE TABLE former_calendars (
    former INTEGER PRIMARY KEY,
    known_until INTEGER NOT NULL,
    id INTEGER NOT NULL,
    definition TEXT NOT NULL
) STRICT;
CREATE INDEX former_calendars_by_time ON former_calendars (known_until);
CREATE TRIGGER calendars_were AFTER UPDATE OF definition ON calendars BEGIN
    INSERT INTO former_calendars (known_until, id, definition)
    SELECT at, OLD.id, OLD.definition FROM newest_write;
END;

CREATE TABLE former_lives (
    former INTEGER PRIMARY KEY,
    known_until INTEGER NOT NULL,
    id INTEGER NOT NULL,
    commissioned_at INTEGER,
    retired_at INTEGER
) STRICT;
CREATE INDEX former_lives_by_time ON former_lives (known_until);
CREATE TRIGGER lives_were AFTER UPDATE OF commissioned_at, retired_at ON assets BEGIN
    INSERT INTO former_lives (known_until, id, commissioned_at, retired_at)
    SELECT at, OLD.id, OLD.commissioned_at, OLD.retired_at FROM newest_write;
END;

CREATE TABLE former_downtimes (
    former INTEGER PRIMARY KEY,
    known_until INTEGER NOT NULL,
    id INTEGER NOT NULL,
    asset_id INTEGER NOT NULL REFERENCES assets,
    work_order INTEGER REFERENCES work_orders,
    kind TEXT NOT NULL,
    start_at INTEGER NOT NULL,
    end_at INTEGER,
    recorded_at INTEGER NOT NULL
) STRICT;
CREATE INDEX former_downtimes_by_time ON former_downtimes (known_until);
CREATE TRIGGER downtimes_were AFTER UPDATE ON downtimes BEGIN
    INSERT INTO former_downtimes (known_until, id, asset_id, work_order, kind, start_at, end_at, recorded_at)
    SELECT at, OLD.id, OLD.asset_id, OLD.work_order, OLD.kind, OLD.start_at, OLD.end_at, OLD.recorded_at FROM newest_write;
END;
CREATE TRIGGER downtimes_went AFTER DELETE ON downtimes BEGIN
    INSERT INTO former_downtimes (known_until, id, asset_id, work_order, kind, start_at, end_at, recorded_at)
    SELECT at, OLD.id, OLD.asset_id, OLD.work_order, OLD.kind, OLD.start_at, OLD.end_at, OLD.recorded_at FROM newest_write;
END;

CREATE TABLE former_failure_reports (
    former INTEGER PRIMARY KEY,
    known_until INTEGER NOT NULL,
    id INTEGER NOT NULL,
    asset_id INTEGER NOT NULL REFERENCES assets,
    work_order INTEGER NOT NULL REFERENCES work_orders,
    failed_at INTEGER NOT NULL,
    effect TEXT NOT NULL,
    problem_id INTEGER REFERENCES codes,
    cause_id INTEGER REFERENCES codes,
    remedy_id INTEGER REFERENCES codes,
    coded_at INTEGER,
    recorded_at INTEGER NOT NULL
) STRICT;
CREATE INDEX former_failure_reports_by_time ON former_failure_reports (known_until);
CREATE TRIGGER failure_reports_were AFTER UPDATE ON failure_reports BEGIN
    INSERT INTO former_failure_reports (known_until, id, asset_id, work_order, failed_at, effect, problem_id, cause_id, remedy_id, coded_at, recorded_at)
    SELECT at, OLD.id, OLD.asset_id, OLD.work_order, OLD.failed_at, OLD.effect, OLD.problem_id, OLD.cause_id, OLD.remedy_id, OLD.coded_at, OLD.recorded_at FROM newest_write;
END;
CREATE TRIGGER failure_reports_went AFTER DELETE ON failure_reports BEGIN
    INSERT INTO former_failure_reports (known_until, id, asset_id, work_order, failed_at, effect, problem_id, cause_id, remedy_id, coded_at, recorded_at)
    SELECT at, OLD.id, OLD.asset_id, OLD.work_order, OLD.failed_at, OLD.effect, OLD.problem_id, OLD.cause_id, OLD.remedy_id, OLD.coded_at, OLD.recorded_at FROM newest_write;
END;

CREATE TABLE former_alarms (
    former INTEGER PRIMARY KEY,
    known_until INTEGER NOT NULL,
    id INTEGER NOT NULL,
    meter_id INTEGER NOT NULL REFERENCES meters,
    kind TEXT NOT NULL,
    side TEXT,
    severity INTEGER NOT NULL,
    entered_at INTEGER NOT NULL,
    left_at INTEGER,
    left_by TEXT,
    acknowledged_at INTEGER,
    acknowledged_by INTEGER REFERENCES people,
    response TEXT NOT NULL,
    work_order INTEGER REFERENCES work_orders,
    recorded_at INTEGER NOT NULL
) STRICT;
CREATE INDEX former_alarms_by_time ON former_alarms (known_until);
CREATE TRIGGER alarms_were AFTER UPDATE OF left_at, left_by, acknowledged_at, acknowledged_by, response, work_order ON alarms BEGIN
    INSERT INTO former_alarms (known_until, id, meter_id, kind, side, severity, entered_at, left_at, left_by, acknowledged_at, acknowledged_by, response, work_order, recorded_at)
    SELECT at, OLD.id, OLD.meter_id, OLD.kind, OLD.side, OLD.severity, OLD.entered_at, OLD.left_at, OLD.left_by, OLD.acknowledged_at, OLD.acknowledged_by, OLD.response, OLD.work_order, OLD.recorded_at FROM newest_write;
END;


CREATE TRIGGER alarms_added AFTER INSERT ON alarms BEGIN
    INSERT INTO changes (kind, id) VALUES ('alarm', NEW.id); END;
CREATE TRIGGER alarms_changed AFTER UPDATE OF left_at, left_by, acknowledged_at, acknowledged_by, response, work_order ON alarms BEGIN
    INSERT INTO changes (kind, id) VALUES ('alarm', NEW.id); END;
CREATE TRIGGER meters_added AFTER INSERT ON meters BEGIN
    INSERT INTO changes (kind, id) VALUES ('names', NEW.id); END;
CREATE TRIGGER meters_renamed AFTER UPDATE OF code, name ON meters BEGIN
    INSERT INTO changes (kind, id) VALUES ('names', NEW.id); END;

-- How many assets in use there are of each kind, level, class, criticality and crew.
CREATE INDEX assets_by_kind ON assets (kind) WHERE retired_at IS NULL;
CREATE INDEX assets_by_level ON assets (level) WHERE retired_at IS NULL;
CREATE INDEX assets_by_class ON assets (class_id) WHERE retired_at IS NULL;
CREATE INDEX assets_by_criticality ON assets (criticality) WHERE retired_at IS NULL;
CREATE INDEX assets_by_crew ON assets (crew_id) WHERE retired_at IS NULL;

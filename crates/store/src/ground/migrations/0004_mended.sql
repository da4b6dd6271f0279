-- Every answer of an alarm keeps its own work; what waits for a reading, what is out of use, and what else was found wrong.

-- All answers an alarm gave, its newest among them, in order of their ids.
CREATE TABLE alarm_answers (
    id INTEGER PRIMARY KEY,
    alarm_id INTEGER NOT NULL REFERENCES alarms,
    at INTEGER NOT NULL,
    response TEXT NOT NULL,
    -- JSON of core's HeldBy.
    held_by TEXT,
    -- The work that this answer raised or joined, or waits for with a worse rung; NULL where there is none.
    work_order INTEGER REFERENCES work_orders,
    -- The finished work that it was given after, because the first reading since is still beyond; NULL for others.
    after_work INTEGER REFERENCES work_orders
) STRICT;
INSERT INTO alarm_answers (alarm_id, at, response, held_by, work_order)
SELECT alarm_id, at, response, held_by, work_order FROM (
    SELECT alarm_id, at, response, held_by, 0 AS newest,
        CASE WHEN response IN ('joined', 'escalated', 'raised') THEN work_order END AS work_order FROM earlier_answers
    UNION ALL
    SELECT id, answered_at, response, held_by, 1,
        CASE WHEN response IN ('joined', 'escalated', 'raised') THEN work_order END FROM alarms WHERE kind = 'limit')
ORDER BY at, newest;
DROP TABLE earlier_answers;
CREATE INDEX answers_by_alarm ON alarm_answers (alarm_id, id);
CREATE INDEX answers_by_work ON alarm_answers (work_order) WHERE work_order IS NOT NULL;
-- Work whose answer was written over by another of the same instant: the alarm that stood when it was raised.
INSERT INTO alarm_answers (alarm_id, at, response, work_order)
SELECT (SELECT a.id FROM alarms a WHERE a.meter_id = w.source_meter_id AND a.side = w.source_side
            AND a.entered_at <= w.source_at ORDER BY a.entered_at DESC, a.severity DESC LIMIT 1), w.source_at, 'raised', w.number
FROM work_orders w WHERE w.source = 'ladder'
    AND NOT EXISTS (SELECT 1 FROM alarm_answers n WHERE n.work_order = w.number)
    AND EXISTS (SELECT 1 FROM alarms a WHERE a.meter_id = w.source_meter_id AND a.side = w.source_side
            AND a.entered_at <= w.source_at);

-- What a standing alarm waits for, one of: an instant (due_at), work that is not finished (waits_work), or the first
-- reading after that work was finished (waits_work and finished_at).
ALTER TABLE alarms ADD COLUMN waits_work INTEGER REFERENCES work_orders;
ALTER TABLE alarms ADD COLUMN finished_at INTEGER;
UPDATE alarms SET waits_work = work_order WHERE left_at IS NULL AND response IN ('joined', 'escalated', 'raised')
    AND (SELECT state FROM work_orders WHERE number = work_order) <> 'dropped';
UPDATE alarms SET finished_at = due_at, due_at = NULL WHERE waits_work IS NOT NULL AND due_at IS NOT NULL;
UPDATE alarms SET due_at = NULL WHERE left_at IS NULL AND response IN ('joined', 'escalated', 'raised');
UPDATE alarms SET left_at = entered_at WHERE left_at < entered_at;
CREATE INDEX alarms_waiting ON alarms (waits_work) WHERE waits_work IS NOT NULL AND left_at IS NULL;

-- The severity of the rung that raised it, whatever escalated it later.
ALTER TABLE work_orders ADD COLUMN raised_severity INTEGER;
UPDATE work_orders SET raised_severity = ifnull(
    (SELECT a.severity FROM alarm_answers n JOIN alarms a ON a.id = n.alarm_id
     WHERE n.work_order = number AND n.response = 'raised' ORDER BY n.id LIMIT 1), source_severity)
WHERE source_severity IS NOT NULL;

-- Spells in which an asset, and all below it, is out of use; alarms on it are held.
CREATE TABLE out_of_use (
    id INTEGER PRIMARY KEY,
    asset_id INTEGER NOT NULL REFERENCES assets,
    from_at INTEGER NOT NULL,
    -- NULL while no end is set.
    to_at INTEGER,
    reason TEXT NOT NULL,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people
) STRICT;
CREATE INDEX out_of_use_by_asset ON out_of_use (asset_id, from_at);

-- A family's ladder that waits for a second engineer.
CREATE TABLE proposed_family_ladders (
    class_id INTEGER NOT NULL REFERENCES equipment_classes,
    meter_name TEXT NOT NULL,
    reason TEXT NOT NULL,
    -- JSON of core's Ladder, and of the codes of deviating meters that are to have it too.
    definition TEXT NOT NULL,
    also TEXT NOT NULL,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people,
    PRIMARY KEY (class_id, meter_name)
) STRICT, WITHOUT ROWID;

-- What a late row is about: a late reading beyond a rung, or an alarm of the past whose reading was voided.
ALTER TABLE late_beyond ADD COLUMN what TEXT NOT NULL DEFAULT 'beyond';

CREATE INDEX voided_by_meter ON voided_readings (meter_id, at);

-- Of the rows of a meter, those that are kept apart: they stay rows, so there is nothing in them to seal.
ALTER TABLE reading_counts ADD COLUMN apart INTEGER NOT NULL DEFAULT 0;
UPDATE reading_counts SET apart = (SELECT count(*) FROM readings r WHERE r.meter_id = reading_counts.meter_id AND r.flags & 2);

-- One report for each asset that failed.
DROP INDEX failures_by_work;
CREATE UNIQUE INDEX failures_by_work ON failure_reports (work_order, asset_id);
CREATE TRIGGER failures_gone AFTER DELETE ON failure_reports BEGIN
    INSERT INTO changes (kind, id) VALUES ('failure', OLD.id); END;

-- The cost of dropped work is settled with the decision.
UPDATE entries SET settled_at = (SELECT state_since FROM work_orders WHERE number = work_order)
WHERE settled_at IS NULL AND (SELECT state FROM work_orders WHERE number = work_order) = 'dropped';

-- The first place reaches back to the beginning: commissioning bounds required time, not where money counts.
UPDATE placements SET from_at = -62135596800000
WHERE from_at = (SELECT min(p.from_at) FROM placements p WHERE p.asset_id = placements.asset_id);

CREATE TRIGGER running_added AFTER INSERT ON meters WHEN NEW.running_hours BEGIN
    INSERT INTO changes (kind, id) VALUES ('running', NEW.id); END;
CREATE TRIGGER running_changed AFTER UPDATE OF running_hours, asset_id, retired_at, resolution, rollover_at ON meters
WHEN NEW.running_hours OR OLD.running_hours BEGIN
    INSERT INTO changes (kind, id) VALUES ('running', NEW.id); END;

-- Which ladders another meter suspends.
CREATE INDEX ladders_suspended ON ladder_versions (json_extract(definition, '$.suspended_while.meter'))
WHERE json_extract(definition, '$.suspended_while.meter') IS NOT NULL;

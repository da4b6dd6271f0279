-- Cycles are facts: each has an id of its own, and its outcome is told to who keeps facts.
CREATE TABLE upkeep_cycles_with_ids (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    plan_id INTEGER NOT NULL REFERENCES upkeep_plans,
    asset_id INTEGER NOT NULL REFERENCES assets,
    number INTEGER NOT NULL,
    -- Before any move.
    due TEXT NOT NULL,
    moved_to TEXT,
    -- The count at which it was due.
    mark REAL,
    -- Days by which it may be late and still is in time.
    grace_days INTEGER NOT NULL,
    -- raised or missed; none while it lies ahead.
    outcome TEXT,
    work_order INTEGER REFERENCES work_orders,
    brought_forward INTEGER NOT NULL DEFAULT 0,
    -- What the counter read when its work was done.
    done_count REAL,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people,
    UNIQUE (plan_id, asset_id, number)
) STRICT;
INSERT INTO upkeep_cycles_with_ids (plan_id, asset_id, number, due, moved_to, mark, grace_days, outcome, work_order, brought_forward,
    done_count, recorded_at, recorded_by)
SELECT plan_id, asset_id, number, due, moved_to, mark, grace_days, outcome, work_order, brought_forward, done_count, recorded_at,
    recorded_by
FROM upkeep_cycles ORDER BY recorded_at, plan_id, asset_id, number;
DROP TABLE upkeep_cycles;
ALTER TABLE upkeep_cycles_with_ids RENAME TO upkeep_cycles;
CREATE INDEX upkeep_cycles_by_work ON upkeep_cycles (work_order) WHERE work_order IS NOT NULL;
CREATE INDEX upkeep_cycles_ahead ON upkeep_cycles (plan_id, asset_id) WHERE outcome IS NULL;

CREATE TRIGGER cycle_settled AFTER INSERT ON upkeep_cycles WHEN NEW.outcome IS NOT NULL BEGIN
    INSERT INTO changes (kind, id) VALUES ('cycle', NEW.id); END;
CREATE TRIGGER cycle_changed AFTER UPDATE OF due, grace_days, outcome, work_order ON upkeep_cycles BEGIN
    INSERT INTO changes (kind, id) VALUES ('cycle', NEW.id); END;
CREATE TRIGGER cycle_gone AFTER DELETE ON upkeep_cycles WHEN OLD.outcome IS NOT NULL BEGIN
    INSERT INTO changes (kind, id) VALUES ('cycle', OLD.id); END;
CREATE TRIGGER plan_named AFTER INSERT ON upkeep_plans BEGIN
    INSERT INTO changes (kind, id) VALUES ('names', NEW.id); END;
CREATE TRIGGER plan_renamed AFTER UPDATE OF code, name ON upkeep_plans BEGIN
    INSERT INTO changes (kind, id) VALUES ('names', NEW.id); END;

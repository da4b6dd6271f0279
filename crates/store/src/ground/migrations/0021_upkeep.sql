-- Work that recurs. Dates are local, as 2026-03-01.
CREATE TABLE upkeep_plans (
    id INTEGER PRIMARY KEY,
    code TEXT NOT NULL UNIQUE,
    -- The title of its work.
    name TEXT NOT NULL,
    status TEXT NOT NULL,
    -- One asset, or all of a class.
    asset_id INTEGER REFERENCES assets,
    class_id INTEGER REFERENCES equipment_classes,
    text TEXT,
    kind TEXT NOT NULL,
    risk_rank INTEGER NOT NULL,
    crew_id INTEGER REFERENCES crews,
    estimated_hours REAL,
    first_state TEXT NOT NULL,
    every_days INTEGER,
    every_units REAL,
    counts_from TEXT NOT NULL,
    first_due TEXT,
    -- None: the counter of the asset's running hours.
    meter_id INTEGER REFERENCES meters,
    first_count REAL,
    season TEXT,
    lead_days INTEGER NOT NULL,
    tolerance_days INTEGER,
    -- Since when it makes work; none before the first time.
    active_since TEXT,
    CHECK ((asset_id IS NULL) <> (class_id IS NULL))
) STRICT;
CREATE INDEX upkeep_plans_by_asset ON upkeep_plans (asset_id);

-- Cycles that were settled, or moved before that. A cycle is settled once.
CREATE TABLE upkeep_cycles (
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
    PRIMARY KEY (plan_id, asset_id, number)
) STRICT, WITHOUT ROWID;
CREATE INDEX upkeep_cycles_by_work ON upkeep_cycles (work_order) WHERE work_order IS NOT NULL;
CREATE INDEX upkeep_cycles_ahead ON upkeep_cycles (plan_id, asset_id) WHERE outcome IS NULL;

-- Counters that plans go by: what they read when they were last looked at, counted on across exchanges, and their use.
CREATE TABLE upkeep_counters (
    meter_id INTEGER PRIMARY KEY REFERENCES meters,
    at INTEGER NOT NULL,
    count REAL NOT NULL,
    per_day REAL NOT NULL,
    low REAL NOT NULL,
    high REAL NOT NULL,
    -- The day whose use was worked out last.
    used_on TEXT NOT NULL
) STRICT;

ALTER TABLE work_orders ADD COLUMN plan_id INTEGER REFERENCES upkeep_plans;
ALTER TABLE work_orders ADD COLUMN cycle INTEGER;
CREATE INDEX work_of_plans ON work_orders (plan_id, asset_id)
    WHERE plan_id IS NOT NULL AND state IN ('raised', 'planning', 'waiting', 'ready', 'scheduled', 'under_way');

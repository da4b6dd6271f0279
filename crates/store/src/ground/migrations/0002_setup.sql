-- Pictures of assets, apart so that looking at assets does not read them.
CREATE TABLE pictures (
    asset_id INTEGER PRIMARY KEY REFERENCES assets,
    media_type TEXT NOT NULL,
    bytes BLOB NOT NULL,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people
) STRICT;

CREATE INDEX old_asset_codes_by_asset ON old_asset_codes (asset_id);
-- The orders in which the list of work is read in parts.
CREATE INDEX work_by_window ON work_orders (window_end, number);
CREATE INDEX work_by_raised ON work_orders (raised_at, number);
CREATE INDEX work_by_cost ON work_orders (cost, number);
CREATE INDEX work_by_spent ON work_orders (spent_ms, number);
-- All that the list's filters and totals look at, so that they read no row of work.
CREATE INDEX work_alike ON work_orders (state, kind, risk_rank, crew_id, source, asset_id, estimated_hours, spent_ms, cost,
    window_end, state_since, waiting_for, scheduled_start);
CREATE INDEX work_by_crew ON work_orders (crew_id, state);

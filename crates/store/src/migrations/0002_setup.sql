-- Pictures of assets, apart so that looking at assets does not read them.
CREATE TABLE pictures (
    asset_id INTEGER PRIMARY KEY REFERENCES assets,
    media_type TEXT NOT NULL,
    bytes BLOB NOT NULL,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people
) STRICT;

CREATE INDEX old_asset_codes_by_asset ON old_asset_codes (asset_id);
CREATE INDEX work_by_crew ON work_orders (crew_id, state);

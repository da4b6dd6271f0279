-- What the storeroom keeps: a list that stands in for a storeroom's own program.
CREATE TABLE storeroom (
    id INTEGER PRIMARY KEY,
    -- Its part number.
    code TEXT NOT NULL UNIQUE,
    -- What entries and job sheets call it.
    item_id INTEGER NOT NULL UNIQUE REFERENCES items,
    -- Where it lies.
    place TEXT,
    stock REAL,
    -- Days from ordering it to having it.
    lead_days REAL,
    -- Of one, in minor units.
    price INTEGER
) STRICT;

-- Assets that it fits.
CREATE TABLE storeroom_fits (
    part_id INTEGER NOT NULL REFERENCES storeroom,
    asset_id INTEGER NOT NULL REFERENCES assets,
    PRIMARY KEY (part_id, asset_id)
) STRICT, WITHOUT ROWID;
CREATE INDEX storeroom_fits_by_asset ON storeroom_fits (asset_id);

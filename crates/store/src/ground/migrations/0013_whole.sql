-- What is bought and of whom, what is set for assets and crews from an instant on, and downtime that only slowed.

CREATE TABLE items (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL UNIQUE COLLATE NOCASE
) STRICT;
CREATE TABLE suppliers (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL UNIQUE COLLATE NOCASE
) STRICT;
ALTER TABLE entries ADD COLUMN item_id INTEGER REFERENCES items;
ALTER TABLE entries ADD COLUMN supplier_id INTEGER REFERENCES suppliers;
CREATE TRIGGER items_added AFTER INSERT ON items BEGIN
    INSERT INTO changes (kind, id) VALUES ('names', NEW.id); END;
CREATE TRIGGER suppliers_added AFTER INSERT ON suppliers BEGIN
    INSERT INTO changes (kind, id) VALUES ('names', NEW.id); END;

-- A value of an asset or a crew, from an instant on until the next; money in minor units, hours in milliseconds. Before the first
-- what stands with the asset or the crew holds. A budget is that of the fiscal year it begins in. NULL sets nothing any more.
CREATE TABLE dated_values (
    id INTEGER PRIMARY KEY,
    kind TEXT NOT NULL,
    asset_id INTEGER REFERENCES assets,
    crew_id INTEGER REFERENCES crews,
    from_at INTEGER NOT NULL,
    value INTEGER,
    recorded_at INTEGER NOT NULL,
    recorded_by INTEGER NOT NULL REFERENCES people,
    CHECK ((asset_id IS NULL) <> (crew_id IS NULL))
) STRICT;
CREATE UNIQUE INDEX dated_values_by_place ON dated_values (kind, ifnull(asset_id, 0), ifnull(crew_id, 0), from_at);
CREATE TRIGGER dated_values_added AFTER INSERT ON dated_values BEGIN
    INSERT INTO changes (kind, id) VALUES ('worth', NEW.id); END;
CREATE TRIGGER dated_values_changed AFTER UPDATE ON dated_values BEGIN
    INSERT INTO changes (kind, id) VALUES ('worth', NEW.id); END;
CREATE TRIGGER dated_values_gone AFTER DELETE ON dated_values BEGIN
    INSERT INTO changes (kind, id) VALUES ('worth', OLD.id); END;
CREATE TRIGGER assets_valued AFTER UPDATE OF replacement_value, downtime_cost ON assets BEGIN
    INSERT INTO changes (kind, id) VALUES ('worth', NEW.id); END;
CREATE TRIGGER assets_added_valued AFTER INSERT ON assets
WHEN NEW.replacement_value IS NOT NULL OR NEW.downtime_cost IS NOT NULL BEGIN
    INSERT INTO changes (kind, id) VALUES ('worth', NEW.id); END;
CREATE TRIGGER crews_added_hours AFTER INSERT ON crews BEGIN
    INSERT INTO changes (kind, id) VALUES ('worth', NEW.id); END;
CREATE TRIGGER crews_hours AFTER UPDATE OF weekly_hours ON crews BEGIN
    INSERT INTO changes (kind, id) VALUES ('worth', NEW.id); END;

ALTER TABLE former_downtimes ADD COLUMN share REAL NOT NULL DEFAULT 1;
DROP TRIGGER downtimes_were;
DROP TRIGGER downtimes_went;
CREATE TRIGGER downtimes_were AFTER UPDATE ON downtimes BEGIN
    INSERT INTO former_downtimes (known_until, id, asset_id, work_order, kind, start_at, end_at, share, recorded_at)
    SELECT at, OLD.id, OLD.asset_id, OLD.work_order, OLD.kind, OLD.start_at, OLD.end_at, OLD.share, OLD.recorded_at FROM newest_write;
END;
CREATE TRIGGER downtimes_went AFTER DELETE ON downtimes BEGIN
    INSERT INTO former_downtimes (known_until, id, asset_id, work_order, kind, start_at, end_at, share, recorded_at)
    SELECT at, OLD.id, OLD.asset_id, OLD.work_order, OLD.kind, OLD.start_at, OLD.end_at, OLD.share, OLD.recorded_at FROM newest_write;
END;

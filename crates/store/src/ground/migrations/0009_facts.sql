-- What the facts read again: by kind of row, each of its own, and whatever lists look at.
DROP TRIGGER assets_added;
DROP TRIGGER assets_changed;
DROP TRIGGER placements_added;
DROP TRIGGER placements_changed;
DROP TRIGGER placements_gone;
DROP TRIGGER effects_added;
DROP TRIGGER effects_changed;
DROP TRIGGER effects_gone;
DROP TRIGGER calendars_added;
DROP TRIGGER calendars_changed;
DROP TRIGGER asset_calendars_added;
DROP TRIGGER asset_calendars_changed;
DROP TRIGGER asset_calendars_gone;
DROP TRIGGER settings_added;
DROP TRIGGER settings_changed;
DROP TRIGGER work_planned;

CREATE TRIGGER assets_added AFTER INSERT ON assets BEGIN
    INSERT INTO changes (kind, id) VALUES ('asset', NEW.id); END;
CREATE TRIGGER assets_changed AFTER UPDATE ON assets BEGIN
    INSERT INTO changes (kind, id) VALUES ('asset', NEW.id); END;
CREATE TRIGGER assets_gone AFTER DELETE ON assets BEGIN
    INSERT INTO changes (kind, id) VALUES ('asset', OLD.id); END;
CREATE TRIGGER placements_added AFTER INSERT ON placements BEGIN
    INSERT INTO changes (kind, id) VALUES ('asset', NEW.asset_id); END;
CREATE TRIGGER placements_changed AFTER UPDATE ON placements BEGIN
    INSERT INTO changes (kind, id) VALUES ('asset', NEW.asset_id); END;
CREATE TRIGGER placements_gone AFTER DELETE ON placements BEGIN
    INSERT INTO changes (kind, id) VALUES ('asset', OLD.asset_id); END;
CREATE TRIGGER effects_added AFTER INSERT ON parent_effects BEGIN
    INSERT INTO changes (kind, id) VALUES ('asset', NEW.asset_id); END;
CREATE TRIGGER effects_changed AFTER UPDATE ON parent_effects BEGIN
    INSERT INTO changes (kind, id) VALUES ('asset', NEW.asset_id); END;
CREATE TRIGGER effects_gone AFTER DELETE ON parent_effects BEGIN
    INSERT INTO changes (kind, id) VALUES ('asset', OLD.asset_id); END;
CREATE TRIGGER asset_calendars_added AFTER INSERT ON asset_calendars BEGIN
    INSERT INTO changes (kind, id) VALUES ('asset', NEW.asset_id); END;
CREATE TRIGGER asset_calendars_changed AFTER UPDATE ON asset_calendars BEGIN
    INSERT INTO changes (kind, id) VALUES ('asset', NEW.asset_id); END;
CREATE TRIGGER asset_calendars_gone AFTER DELETE ON asset_calendars BEGIN
    INSERT INTO changes (kind, id) VALUES ('asset', OLD.asset_id); END;
CREATE TRIGGER calendars_added AFTER INSERT ON calendars BEGIN
    INSERT INTO changes (kind, id) VALUES ('calendar', NEW.id); END;
CREATE TRIGGER calendars_changed AFTER UPDATE ON calendars BEGIN
    INSERT INTO changes (kind, id) VALUES ('calendar', NEW.id); END;
-- Not of what the program notes for itself.
CREATE TRIGGER settings_added AFTER INSERT ON settings WHEN NEW.key NOT IN ('health', 'in_use') BEGIN
    INSERT INTO changes (kind, id) VALUES ('settings', 0); END;
CREATE TRIGGER settings_changed AFTER UPDATE ON settings WHEN NEW.key NOT IN ('health', 'in_use') BEGIN
    INSERT INTO changes (kind, id) VALUES ('settings', 0); END;

CREATE TRIGGER crews_added AFTER INSERT ON crews BEGIN
    INSERT INTO changes (kind, id) VALUES ('names', NEW.id); END;
CREATE TRIGGER crews_changed AFTER UPDATE OF code, name ON crews BEGIN
    INSERT INTO changes (kind, id) VALUES ('names', NEW.id); END;
CREATE TRIGGER people_added AFTER INSERT ON people BEGIN
    INSERT INTO changes (kind, id) VALUES ('names', NEW.id); END;
CREATE TRIGGER people_changed AFTER UPDATE OF code, name ON people BEGIN
    INSERT INTO changes (kind, id) VALUES ('names', NEW.id); END;
CREATE TRIGGER classes_added AFTER INSERT ON equipment_classes BEGIN
    INSERT INTO changes (kind, id) VALUES ('names', NEW.id); END;
CREATE TRIGGER classes_changed AFTER UPDATE OF code, name ON equipment_classes BEGIN
    INSERT INTO changes (kind, id) VALUES ('names', NEW.id); END;
CREATE TRIGGER codes_added AFTER INSERT ON codes BEGIN
    INSERT INTO changes (kind, id) VALUES ('names', NEW.id); END;
CREATE TRIGGER codes_changed AFTER UPDATE OF code, name ON codes BEGIN
    INSERT INTO changes (kind, id) VALUES ('names', NEW.id); END;

CREATE TRIGGER work_planned AFTER UPDATE OF asset_id, kind, source_severity, risk_rank, window_end, target_start, target_finish,
    scheduled_start, scheduled_end, crew_id, department, assignee_id, asked_id, estimated_hours, state, state_since, waiting_for,
    verdict, spent_ms, cost ON work_orders BEGIN
    INSERT INTO changes (kind, id) VALUES ('work', NEW.number); END;

-- All that is read of moves at start, in the order in which they count.
DROP INDEX state_changes_by_work;
CREATE INDEX state_changes_by_work ON state_changes (work_order, at, id, to_state, recorded_at);
-- The orders of the list of work are the facts' now.
DROP INDEX work_by_window;
DROP INDEX work_by_raised;
DROP INDEX work_by_cost;
DROP INDEX work_by_spent;
DROP INDEX work_alike;

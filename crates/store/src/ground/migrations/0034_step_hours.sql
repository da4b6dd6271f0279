-- The hours that are left of an order lie at the assets of its open steps: facts hear of both.
CREATE TRIGGER step_settled AFTER INSERT ON job_ticks WHEN NEW.line = 'step' BEGIN
    INSERT INTO changes (kind, id) VALUES ('work', NEW.work_order); END;
CREATE TRIGGER step_settled_anew AFTER UPDATE ON job_ticks WHEN NEW.line = 'step' BEGIN
    INSERT INTO changes (kind, id) VALUES ('work', NEW.work_order); END;
CREATE TRIGGER step_opened AFTER DELETE ON job_ticks WHEN OLD.line = 'step' BEGIN
    INSERT INTO changes (kind, id) VALUES ('work', OLD.work_order); END;
CREATE TRIGGER job_taken AFTER UPDATE OF job_version_id ON work_orders BEGIN
    INSERT INTO changes (kind, id) VALUES ('work', NEW.number); END;

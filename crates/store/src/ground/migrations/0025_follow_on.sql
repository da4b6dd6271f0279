-- The order that another follows on from.
ALTER TABLE work_orders ADD COLUMN source_work INTEGER REFERENCES work_orders;
CREATE INDEX work_by_source_work ON work_orders (source_work) WHERE source_work IS NOT NULL;

-- Upkeep plans for a class ask for its assets, also for those that will be retired.
CREATE INDEX assets_of_class ON assets (class_id) WHERE class_id IS NOT NULL;

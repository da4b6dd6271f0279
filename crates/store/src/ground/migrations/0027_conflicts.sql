-- What must be permitted or isolated before work on an asset begins, and what of it an order took when it was raised.
ALTER TABLE assets ADD COLUMN permits TEXT NOT NULL DEFAULT '[]';
ALTER TABLE work_orders ADD COLUMN permits TEXT NOT NULL DEFAULT '[]';
-- Days on which somebody is away, as 2026-03-02..2026-03-06.
ALTER TABLE people ADD COLUMN away TEXT NOT NULL DEFAULT '[]';

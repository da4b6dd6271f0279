-- A photo taken where there is no network arrives later than it was taken.
ALTER TABLE attachments ADD COLUMN at INTEGER NOT NULL DEFAULT 0;
UPDATE attachments SET at = recorded_at;

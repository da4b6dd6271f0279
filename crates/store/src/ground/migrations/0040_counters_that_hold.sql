-- What a counter of plans reads is worked out anew where its readings were corrected: from the reading that it counts since, and
-- what it was ahead of that by exchanges before.
ALTER TABLE upkeep_counters ADD COLUMN since INTEGER NOT NULL DEFAULT 0;
ALTER TABLE upkeep_counters ADD COLUMN ahead REAL NOT NULL DEFAULT 0;
-- The revision of its readings (reading_counts) that it was worked out from.
ALTER TABLE upkeep_counters ADD COLUMN revised INTEGER NOT NULL DEFAULT -1;
UPDATE upkeep_counters SET since = at;
UPDATE upkeep_counters SET ahead = count - ifnull(
    (SELECT r.value FROM readings r WHERE r.meter_id = upkeep_counters.meter_id AND r.at = upkeep_counters.at), count)
WHERE meter_id IN (SELECT meter_id FROM meter_exchanges) OR meter_id IN (SELECT id FROM meters WHERE rollover_at IS NOT NULL);

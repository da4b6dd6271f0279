-- What stands in the way of a message: it is not tried again. NULL for those that are sent or wait.
ALTER TABLE outbox ADD COLUMN failed TEXT;
DROP INDEX outbox_unsent;
CREATE INDEX outbox_unsent ON outbox (id) WHERE sent_at IS NULL AND failed IS NULL;
-- Until now such a message counted as sent, into no file.
UPDATE outbox SET failed = 'could not be addressed', sent_at = NULL, file = NULL WHERE file = '';

-- Taking a code away asks for what stands below it and for reports that name it.
CREATE INDEX codes_by_parent ON codes (parent_id);
CREATE INDEX failures_by_problem ON failure_reports (problem_id);
CREATE INDEX failures_by_cause ON failure_reports (cause_id);
CREATE INDEX failures_by_remedy ON failure_reports (remedy_id);

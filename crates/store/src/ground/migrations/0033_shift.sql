-- Whose work it is, for the line of time of one person.
CREATE INDEX work_by_assignee ON work_orders (assignee_id, state) WHERE assignee_id IS NOT NULL;

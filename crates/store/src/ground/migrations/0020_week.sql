-- What is open and has a date: the board of a week, without a look at the rest.
CREATE INDEX work_scheduled ON work_orders (scheduled_start)
    WHERE scheduled_start IS NOT NULL AND state IN ('raised', 'planning', 'waiting', 'ready', 'scheduled', 'under_way');

-- The file beside the database that holds facts as columns: its own word, and the change that it is true for.
CREATE TABLE column_file (
    one INTEGER PRIMARY KEY CHECK (one = 1),
    word TEXT NOT NULL,
    change INTEGER NOT NULL
) STRICT;

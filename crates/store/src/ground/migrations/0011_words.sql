-- How words of titles, codes and names begin: what a letter or two find in lists. The index of letters goes by threes.
CREATE VIRTUAL TABLE words_of_work USING fts5 (title, content = 'work_orders', content_rowid = 'number',
    tokenize = 'unicode61 remove_diacritics 2', prefix = '1 2', detail = none, columnsize = 0);
CREATE VIRTUAL TABLE words_of_assets USING fts5 (code, name, content = 'assets', content_rowid = 'id',
    tokenize = 'unicode61 remove_diacritics 2', prefix = '1 2', detail = none, columnsize = 0);

CREATE TRIGGER words_of_work_added AFTER INSERT ON work_orders BEGIN
    INSERT INTO words_of_work (rowid, title) VALUES (new.number, new.title);
END;
CREATE TRIGGER words_of_work_gone AFTER DELETE ON work_orders BEGIN
    INSERT INTO words_of_work (words_of_work, rowid, title) VALUES ('delete', old.number, old.title);
END;
CREATE TRIGGER words_of_work_changed AFTER UPDATE OF title ON work_orders BEGIN
    INSERT INTO words_of_work (words_of_work, rowid, title) VALUES ('delete', old.number, old.title);
    INSERT INTO words_of_work (rowid, title) VALUES (new.number, new.title);
END;

CREATE TRIGGER words_of_assets_added AFTER INSERT ON assets BEGIN
    INSERT INTO words_of_assets (rowid, code, name) VALUES (new.id, new.code, new.name);
END;
CREATE TRIGGER words_of_assets_gone AFTER DELETE ON assets BEGIN
    INSERT INTO words_of_assets (words_of_assets, rowid, code, name) VALUES ('delete', old.id, old.code, old.name);
END;
CREATE TRIGGER words_of_assets_changed AFTER UPDATE OF code, name ON assets BEGIN
    INSERT INTO words_of_assets (words_of_assets, rowid, code, name) VALUES ('delete', old.id, old.code, old.name);
    INSERT INTO words_of_assets (rowid, code, name) VALUES (new.id, new.code, new.name);
END;

INSERT INTO words_of_work (words_of_work) VALUES ('rebuild');
INSERT INTO words_of_assets (words_of_assets) VALUES ('rebuild');

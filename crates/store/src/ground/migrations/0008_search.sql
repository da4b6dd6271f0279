-- Letters of codes, names and titles, three by three, so that a few of them are found without a look at every row. The texts
-- stand in their own tables; triggers keep the index in step.
CREATE VIRTUAL TABLE search_assets USING fts5 (code, name, content = 'assets', content_rowid = 'id', tokenize = 'trigram remove_diacritics 1');
CREATE VIRTUAL TABLE search_meters USING fts5 (code, name, content = 'meters', content_rowid = 'id', tokenize = 'trigram remove_diacritics 1');
CREATE VIRTUAL TABLE search_work USING fts5 (title, content = 'work_orders', content_rowid = 'number', tokenize = 'trigram remove_diacritics 1');

CREATE TRIGGER search_assets_added AFTER INSERT ON assets BEGIN
    INSERT INTO search_assets (rowid, code, name) VALUES (new.id, new.code, new.name);
END;
CREATE TRIGGER search_assets_gone AFTER DELETE ON assets BEGIN
    INSERT INTO search_assets (search_assets, rowid, code, name) VALUES ('delete', old.id, old.code, old.name);
END;
CREATE TRIGGER search_assets_changed AFTER UPDATE OF code, name ON assets BEGIN
    INSERT INTO search_assets (search_assets, rowid, code, name) VALUES ('delete', old.id, old.code, old.name);
    INSERT INTO search_assets (rowid, code, name) VALUES (new.id, new.code, new.name);
END;

CREATE TRIGGER search_meters_added AFTER INSERT ON meters BEGIN
    INSERT INTO search_meters (rowid, code, name) VALUES (new.id, new.code, new.name);
END;
CREATE TRIGGER search_meters_gone AFTER DELETE ON meters BEGIN
    INSERT INTO search_meters (search_meters, rowid, code, name) VALUES ('delete', old.id, old.code, old.name);
END;
CREATE TRIGGER search_meters_changed AFTER UPDATE OF code, name ON meters BEGIN
    INSERT INTO search_meters (search_meters, rowid, code, name) VALUES ('delete', old.id, old.code, old.name);
    INSERT INTO search_meters (rowid, code, name) VALUES (new.id, new.code, new.name);
END;

CREATE TRIGGER search_work_added AFTER INSERT ON work_orders BEGIN
    INSERT INTO search_work (rowid, title) VALUES (new.number, new.title);
END;
CREATE TRIGGER search_work_gone AFTER DELETE ON work_orders BEGIN
    INSERT INTO search_work (search_work, rowid, title) VALUES ('delete', old.number, old.title);
END;
CREATE TRIGGER search_work_changed AFTER UPDATE OF title ON work_orders BEGIN
    INSERT INTO search_work (search_work, rowid, title) VALUES ('delete', old.number, old.title);
    INSERT INTO search_work (rowid, title) VALUES (new.number, new.title);
END;

INSERT INTO search_assets (search_assets) VALUES ('rebuild');
INSERT INTO search_meters (search_meters) VALUES ('rebuild');
INSERT INTO search_work (search_work) VALUES ('rebuild');

-- What begins with a letter or two.
CREATE INDEX assets_by_lower_code ON assets (lower(code));
CREATE INDEX meters_by_lower_code ON meters (lower(code));

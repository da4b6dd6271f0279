//! Backups of real folders, and what a check finds in a torn one.

use crate::common::{Plant, at, day};
use rusqlite::{Connection, types::ValueRef};
use serde_json::json;
use std::{
    collections::BTreeMap,
    fs,
    io::{Read, Write},
    path::Path,
};
use tally_core::ground::{ids::WorkOrderId, time::Instant};
use tally_store::{
    Store, StoreError,
    outside::{
        backup::{self, BackupFor, Manifest},
        check,
    },
    work,
};

/// All rows of all tables but the mark of a folder that is in use, as text.
fn rows(database: &Path) -> BTreeMap<String, Vec<String>> {
    let conn = Connection::open(database).unwrap();
    let mut tables = conn
        .prepare(
            "SELECT name FROM pragma_table_list WHERE type = 'table' AND schema = 'main' AND name NOT LIKE 'sqlite_%'",
        )
        .unwrap();
    let names: Vec<String> = tables.query_map([], |row| row.get(0)).unwrap().map(Result::unwrap).collect();
    let of = |table: String| {
        let mut select = conn.prepare(&format!("SELECT * FROM {table}")).unwrap();
        let columns = select.column_count();
        let row = |row: &rusqlite::Row| {
            let values = (0..columns).map(|column| match row.get_ref(column).unwrap() {
                ValueRef::Text(text) => String::from_utf8_lossy(text).into_owned(),
                other => format!("{other:?}"),
            });
            Ok(values.collect::<Vec<_>>().join("|"))
        };
        let mut rows: Vec<String> = select.query_map([], row).unwrap().map(Result::unwrap).collect();
        rows.retain(|row| !row.starts_with("in_use|"));
        rows.sort();
        (table, rows)
    };
    names.into_iter().map(of).collect()
}

fn raise(plant: &Plant, now: Instant) -> WorkOrderId {
    let new = json!({"title": "Look at it", "kind": "inspection", "asset": "EQ", "risk_rank": 3});
    plant.write(now, |tx| work::raise(tx, &serde_json::from_value(new).unwrap())).unwrap()
}

fn made(plant: &Plant, folder: &Path) -> std::path::PathBuf {
    let file = folder.join(BackupFor::Hand.name(day(9)));
    backup::make(plant.store.path(), &file, day(9)).unwrap();
    file
}

#[test]
fn what_comes_back_is_all_there_was_and_goes_on() {
    let plant = Plant::new();
    raise(&plant, day(3));
    let folder = tempfile::tempdir().unwrap();
    let file = made(&plant, folder.path());
    let before = rows(plant.store.path());
    // What is written afterwards is not in it.
    raise(&plant, day(4));
    let restored = folder.path().join("restored");
    let manifest = backup::restore(&file, &restored).unwrap();
    assert_eq!(manifest.made_at, day(9));
    assert!(rows(&restored.join("fair-tally.db")) == before, "all of it");
    assert!(rows(plant.store.path()) != before, "and nothing later");
    let store = Store::open_alone(&restored, day(9)).unwrap();
    drop(store);
    assert!(check::check(&restored.join("fair-tally.db")).unwrap().iter().all(|one| one.faults.is_empty()));
    let listed = backup::list(folder.path()).unwrap();
    assert_eq!(listed.iter().map(|one| (one.made_for, one.made_at)).collect::<Vec<_>>(), [(BackupFor::Hand, day(9))]);
    assert_eq!(listed[0].bytes, fs::metadata(&file).unwrap().len());
    assert_eq!(fs::read_dir(folder.path()).unwrap().count(), 2, "nothing half-made is left beside it");
}

#[test]
fn it_goes_into_an_empty_folder_only_and_over_no_file() {
    let plant = Plant::new();
    let folder = tempfile::tempdir().unwrap();
    let file = made(&plant, folder.path());
    let over = plant.store.path().parent().unwrap();
    let refused = backup::restore(&file, over).unwrap_err().to_string();
    assert!(refused.contains("is not empty"), "{refused}");
    let again = backup::make(plant.store.path(), &file, day(9)).unwrap_err();
    assert!(matches!(again, StoreError::Conflict(_)), "{again}");
}

/// Whatever byte of it is another, it is refused, and the folder stays empty.
#[test]
fn a_torn_or_changed_file_is_refused_with_the_reason() {
    let plant = Plant::new();
    let folder = tempfile::tempdir().unwrap();
    let file = made(&plant, folder.path());
    let whole = fs::read(&file).unwrap();
    let torn = folder.path().join("torn.zip");
    let into = folder.path().join("into");
    let places = (0..40).map(|place| place * (whole.len() - 1) / 40);
    let mut refused = 0;
    for place in places {
        let mut bytes = whole.clone();
        bytes[place] ^= 0x55;
        fs::write(&torn, &bytes).unwrap();
        // A byte that says nothing, such as one of a date, may be another.
        match backup::restore(&torn, &into) {
            Err(error) => {
                refused += 1;
                let left: Vec<_> = fs::read_dir(&into).map(|left| left.collect()).unwrap_or_default();
                assert!(left.is_empty(), "byte {place}: {error} left {left:?}");
            }
            Ok(_) => {
                assert!(rows(&into.join("fair-tally.db")) == rows(plant.store.path()), "byte {place}");
                fs::remove_dir_all(&into).unwrap();
            }
        }
    }
    assert!(refused >= 35, "{refused} of 40 were refused");
    for length in [0, 10, whole.len() / 2, whole.len() - 1] {
        fs::write(&torn, &whole[..length]).unwrap();
        let error = backup::restore(&torn, &into).unwrap_err().to_string();
        assert!(error.contains("is no backup"), "{length} bytes: {error}");
    }
    fs::write(&torn, "not an archive").unwrap();
    assert!(backup::restore(&torn, &into).unwrap_err().to_string().contains("is no backup"));
}

/// An archive of a newer form, and one that says it has fewer bytes than it has.
#[test]
fn a_manifest_is_held_to() {
    let plant = Plant::new();
    let folder = tempfile::tempdir().unwrap();
    let file = made(&plant, folder.path());
    let with = |change: &dyn Fn(&mut Manifest)| {
        let mut archive = zip::ZipArchive::new(fs::File::open(&file).unwrap()).unwrap();
        let mut database = Vec::new();
        archive.by_name("fair-tally.db").unwrap().read_to_end(&mut database).unwrap();
        let mut manifest = backup::manifest(&file).unwrap();
        change(&mut manifest);
        let other = folder.path().join("other.zip");
        let mut written = zip::ZipWriter::new(fs::File::create(&other).unwrap());
        let options = zip::write::SimpleFileOptions::default();
        written.start_file("fair-tally.db", options).unwrap();
        written.write_all(&database).unwrap();
        written.start_file("manifest.json", options).unwrap();
        serde_json::to_writer(&mut written, &manifest).unwrap();
        written.finish().unwrap();
        backup::restore(&other, &folder.path().join("into")).unwrap_err()
    };
    assert!(matches!(with(&|manifest| manifest.format += 1), StoreError::Newer));
    assert!(matches!(with(&|manifest| manifest.schema += 1), StoreError::Newer));
    assert!(with(&|manifest| manifest.bytes -= 1).to_string().contains("checksum"));
    assert!(with(&|manifest| manifest.sha256.replace_range(..1, "z")).to_string().contains("checksum"));
}

#[test]
fn an_upgrade_makes_one_before_it_changes_anything() {
    let plant = Plant::new();
    raise(&plant, day(3));
    let folder = tempfile::tempdir().unwrap();
    let data = folder.path().join("data");
    backup::restore(&made(&plant, folder.path()), &data).unwrap();
    let database = data.join("fair-tally.db");
    // As if it were of the version before: its last step can be taken again.
    let conn = Connection::open(&database).unwrap();
    let newest: i64 = conn.pragma_query_value(None, "user_version", |row| row.get(0)).unwrap();
    conn.pragma_update(None, "user_version", newest - 1).unwrap();
    drop(conn);
    let before = rows(&database);
    // Whether that step can be taken twice or not: the backup is there before.
    drop(Store::open_alone(&data, at("2026-02-01T00:00:00Z")));
    let listed = backup::list(&data.join(backup::FOLDER)).unwrap();
    assert_eq!(listed.iter().map(|one| one.made_for).collect::<Vec<_>>(), [BackupFor::Upgrade]);
    let back = folder.path().join("back");
    let manifest = backup::restore(&data.join(backup::FOLDER).join(&listed[0].name), &back).unwrap();
    assert_eq!(manifest.schema as i64, newest - 1);
    assert!(rows(&back.join("fair-tally.db")) == before, "as it was before");
}

/// Each kind of fault is found, and nothing in a sound one.
#[test]
fn a_check_names_what_is_wrong() {
    let plant = Plant::new();
    let number = raise(&plant, day(3));
    let database = plant.store.path().to_owned();
    let faults =
        || -> Vec<String> { check::check(&database).unwrap().into_iter().flat_map(|checked| checked.faults).collect() };
    assert_eq!(faults(), Vec::<String>::new());
    let conn = Connection::open(&database).unwrap();
    conn.pragma_update(None, "foreign_keys", false).unwrap();
    for (tear, mend, names) in [
        (
            "UPDATE work_orders SET cost = cost + 1",
            "UPDATE work_orders SET cost = cost - 1",
            format!("order {number} keeps 1 and"),
        ),
        (
            "UPDATE work_orders SET asset_id = asset_id + 900",
            "UPDATE work_orders SET asset_id = asset_id - 900; DELETE FROM former_fields",
            "names no assets".to_owned(),
        ),
        (
            "UPDATE work_orders SET state = 'ready'",
            "UPDATE work_orders SET state = 'raised'",
            format!("order {number} stands as ready, its last move was to raised"),
        ),
        (
            "INSERT INTO reading_blocks (id, meter_id, from_at, to_at, readings, columns) SELECT 1, min(id), 0, 1, 2, x'00' FROM meters",
            "DELETE FROM reading_blocks",
            "the block of meter".to_owned(),
        ),
    ] {
        conn.execute_batch(tear).unwrap();
        let found = faults();
        assert!(found.iter().any(|fault| fault.contains(&names)), "{tear}: {found:?}");
        conn.execute_batch(mend).unwrap();
    }
    assert_eq!(faults(), Vec::<String>::new());
}

/// What a killed one left a day ago goes with the next; one that may still be made stays.
#[test]
fn what_a_killed_one_left_behind_goes() {
    let plant = Plant::new();
    let folder = tempfile::tempdir().unwrap();
    let (old, new) = (folder.path().join("backup-old"), folder.path().join("backup-new"));
    for left in [&old, &new] {
        fs::create_dir(left).unwrap();
        fs::write(left.join("fair-tally.db"), "half").unwrap();
    }
    let two_days_ago = std::time::SystemTime::now() - std::time::Duration::from_secs(48 * 3_600);
    fs::File::open(&old).unwrap().set_modified(two_days_ago).unwrap();
    made(&plant, folder.path());
    assert!(!old.exists() && new.exists());
}

//! Photos and papers beside a real database: kept once, named, taken away, forgotten, and there again after a restore.

use crate::common::{Plant, day};
use serde_json::json;
use std::fs;
use tally_core::{
    ground::{ids::WorkOrderId, time::Instant},
    work::{Attaching, NewAttachment},
};
use tally_store::{
    Result, Store, StoreError,
    ground::files::Size,
    outside::{backup, check, photos::Prepared},
    work,
    work::attachments::{self, StoredFile},
};

fn photo(bytes: &[u8]) -> Prepared {
    Prepared { media_type: "image/jpeg", bytes: bytes.into(), small: Some(b"small".into()), size: Some((40, 30)) }
}

fn keep(plant: &Plant, bytes: &[u8], now: Instant) -> Result<StoredFile> {
    let files = plant.store.files();
    plant.write(now, |tx| attachments::keep(tx, &files, &photo(bytes)))
}

fn named(file: &str) -> Vec<NewAttachment> {
    vec![NewAttachment { file: file.into(), name: "crack.jpg".into() }]
}

fn attaching(file: &str) -> Attaching {
    Attaching { attachments: named(file), at: None }
}

fn raise(plant: &Plant, with: &str, now: Instant) -> WorkOrderId {
    let new = json!({"title": "Look at the crack", "kind": "inspection", "asset": "EQ", "risk_rank": 3, "attachments": named(with),
        "also_on": ["PART"]});
    let (number, also) = plant.write(now, |tx| work::raise_on_each(tx, &serde_json::from_value(new).unwrap())).unwrap();
    assert_eq!(plant.order(also[0], now).attachments.len(), 1, "each order has the photo");
    number
}

fn lie(plant: &Plant, file: &str) -> usize {
    let files = plant.store.files();
    [Size::Whole, Size::Small].into_iter().filter(|size| files.path(file, *size).exists()).count()
}

#[test]
fn a_photo_comes_with_the_order_goes_and_comes_back() {
    let plant = Plant::new();
    let file = keep(&plant, b"a crack", day(2)).unwrap();
    assert_eq!((file.bytes, file.width, lie(&plant, &file.file)), (7, Some(40), 2));
    let number = raise(&plant, &file.file, day(2));
    let standing = |now| plant.order(number, now).attachments;
    let row = standing(day(3)).remove(0);
    assert_eq!((row.name.as_str(), row.media_type.as_str(), row.at), ("crack.jpg", "image/jpeg", day(2)));
    // The same again is the same.
    plant.write(day(3), |tx| attachments::attach(tx, number, &attaching(&file.file))).unwrap();
    assert_eq!(standing(day(3)).len(), 1);
    plant.write(day(4), |tx| attachments::take_away(tx, number, row.id, false)).unwrap();
    assert!(standing(day(4)).is_empty());
    let twice = plant.write(day(4), |tx| attachments::take_away(tx, number, row.id, false));
    assert!(matches!(twice, Err(StoreError::NotFound { .. })));
    plant.write(day(5), |tx| attachments::take_away(tx, number, row.id, true)).unwrap();
    assert_eq!(standing(day(5)).len(), 1);
    let nothing = plant.write(day(5), |tx| attachments::attach(tx, number, &attaching("none")));
    assert!(matches!(nothing, Err(StoreError::Invalid { field, .. }) if field == "attachments[0].file"));
}

#[test]
fn what_nothing_names_for_a_month_goes_and_nothing_else() {
    let plant = Plant::new();
    let (used, unused) = (keep(&plant, b"used", day(1)).unwrap(), keep(&plant, b"unused", day(1)).unwrap());
    let number = raise(&plant, &used.file, day(1));
    // What was taken away can be put back: it stays.
    let row = plant.order(number, day(1)).attachments.remove(0);
    plant.write(day(1), |tx| attachments::take_away(tx, number, row.id, false)).unwrap();
    let due = |now| plant.store.read(now, |view| attachments::any_unnamed(view, now)).unwrap();
    assert!(!due(day(31)) && due(day(32)));
    let files = plant.store.files();
    assert_eq!(plant.write(day(32), |tx| attachments::forget_unnamed(tx, &files)).unwrap(), 1);
    assert_eq!((lie(&plant, &used.file), lie(&plant, &unused.file), due(day(99))), (2, 0, false));
    // Sent anew it is there anew.
    assert_eq!(keep(&plant, b"unused", day(33)).unwrap().file, unused.file);
    assert_eq!(lie(&plant, &unused.file), 2);
}

#[test]
fn who_sends_and_sends_is_told_to_stop() {
    let plant = Plant::new();
    let sent = (0..600).map(|place: u32| keep(&plant, &place.to_be_bytes(), day(1)));
    let refused = sent.filter(|kept| matches!(kept, Err(StoreError::Conflict(_)))).count();
    assert_eq!(refused, 100);
}

#[test]
fn a_backup_brings_the_files_and_a_check_says_what_is_lost() {
    let plant = Plant::new();
    let file = keep(&plant, b"a crack", day(2)).unwrap();
    let number = raise(&plant, &file.file, day(2));
    let lost = keep(&plant, b"lost", day(2)).unwrap();
    fs::remove_file(plant.store.files().path(&lost.file, Size::Whole)).unwrap();
    let faults = |store: &Store| -> Vec<String> {
        check::check(store.path()).unwrap().into_iter().flat_map(|checked| checked.faults).collect()
    };
    assert_eq!(faults(&plant.store), [format!("there is no file {:?}", lost.file)]);
    let aside = tempfile::tempdir().unwrap();
    let (archive, folder) = (aside.path().join("one.zip"), aside.path().join("again"));
    let made = backup::make(plant.store.path(), &archive, day(3)).unwrap();
    assert_eq!((made.files, made.lost), (1, 1));
    backup::restore(&archive, &folder).unwrap();
    let store = Store::open(&folder, day(4)).unwrap();
    let id = store.read(day(4), |view| work::detail(view, number)).unwrap().attachments[0].id;
    let found = store.read(day(4), |view| attachments::file_of(view, number, id)).unwrap();
    assert_eq!(store.files().get(&found.file, Size::Whole).unwrap(), b"a crack");
    assert_eq!(store.files().get(&found.file, Size::Small).unwrap(), b"small");
    // What was changed there is noticed.
    fs::write(store.files().path(&file.file, Size::Whole), b"another").unwrap();
    assert!(faults(&store)[0].ends_with("holds something else"));
}

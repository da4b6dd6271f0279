//! The column file: what is read at start with it is what the database says, or it is not read.

use crate::{
    common::{Plant, day},
    then::{Made, Step, all_answers, differing, plant, take_step},
};
use proptest::prelude::*;
use rstest::rstest;
use std::{
    fs,
    path::{Path, PathBuf},
};
use tally_core::ground::{
    ids::AssetId,
    time::{HOUR, Instant},
};
use tally_store::{Store, StoreError, facts};

fn file(plant: &Plant) -> PathBuf {
    plant.store.path().with_extension("columns")
}

fn take(plant: &Plant, made: &mut Made, steps: impl IntoIterator<Item = (Instant, Step)>) {
    for (now, step) in steps {
        // What may not be done is refused, and leaves nothing.
        plant.write(now, |tx| take_step(tx, made, step)).ok();
    }
}

/// A plant where something of each kind happened.
fn lived() -> (Plant, Made) {
    let (plant, mut made) = (plant(), Made::default());
    let steps: [Step; 12] = [
        (0, 0, 3, 1),
        (0, 1, 3, 1),
        (1, 0, 1, 0),
        (2, 0, 0, 0),
        (2, 0, 1, 0),
        (3, 0, 0, 1),
        (3, 0, 1, 1),
        (5, 1, 0, 1),
        (7, 0, 0, 1),
        (9, 3, 6, 2),
        (14, 0, 2, 0),
        (15, 0, 10, 0),
    ];
    take(&plant, &mut made, steps.into_iter().map(|step| (day(3), step)));
    (plant, made)
}

/// What is told of the facts that the store has, and of those that are read from the database alone.
fn kept_and_read(plant: &Plant, now: Instant) -> [Vec<String>; 2] {
    let told = plant.store.read(now, |view| {
        let (kept, read) = (view.facts()?, facts::load(view)?);
        let ids: Vec<AssetId> = (0..read.tree.len()).map(|index| read.tree.node(index).id).collect();
        Ok::<_, StoreError>([all_answers(kept, &ids, now), all_answers(&read, &ids, now)])
    });
    told.unwrap()
}

/// How many entries the facts have.
fn entries(plant: &Plant) -> usize {
    plant.store.read(day(9), |view| Ok::<_, StoreError>(view.facts()?.entries.len())).unwrap()
}

/// Takes an entry out of the database so that nobody hears of it: who reads it from there does not find it.
fn lose_an_entry(plant: &Plant) {
    let lost = "BEGIN;
        CREATE TEMP TABLE newest AS SELECT max(seq) AS seq FROM changes;
        DELETE FROM entries WHERE id = (SELECT min(id) FROM entries);
        DELETE FROM changes WHERE seq > (SELECT seq FROM newest);
        COMMIT;";
    plant.database().execute_batch(lost).unwrap();
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(16))]

    /// Whatever is done, and wherever in between the file is written and a new beginning made.
    #[test]
    fn begun_with_the_file_facts_are_what_the_database_says(
        steps in prop::collection::vec((prop::option::weighted(0.8, (0u8..17, 0u8..30, 0u8..30, 0i64..40)), any::<bool>()), 8..48),
    ) {
        let (mut plant, mut made) = lived();
        plant.store.write_column_file(day(3)).unwrap();
        for (place, (step, writes)) in (1i64..).zip(steps) {
            let now = day(3).plus(place * 5 * HOUR);
            match step {
                Some(step) => take(&plant, &mut made, [(now, step)]),
                None if writes => plant.store.write_column_file(now).unwrap(),
                None => {
                    plant = plant.begun_anew(now);
                    let [kept, read] = kept_and_read(&plant, now);
                    prop_assert_eq!(differing(&read, &kept), Vec::<String>::new());
                }
            }
        }
    }
}

/// Else what is asked of files below would be asked of none.
#[test]
fn what_the_file_says_is_not_read_from_the_database() {
    let (plant, mut made) = lived();
    let had = entries(&plant);
    plant.store.write_column_file(day(4)).unwrap();
    lose_an_entry(&plant);
    let plant = plant.begun_anew(day(4));
    assert_eq!(entries(&plant), had);
    // What changes from now on is read beside it, also when it was begun anew twice.
    take(&plant, &mut made, [(day(5), (3, 0, 0, 1))]);
    let plant = plant.begun_anew(day(5)).begun_anew(day(5));
    assert_eq!(entries(&plant), had + 1);
}

fn byte_at(file: &Path, place: impl Fn(usize) -> usize) {
    let mut bytes = fs::read(file).unwrap();
    let place = place(bytes.len());
    bytes[place] ^= 1;
    fs::write(file, bytes).unwrap();
}

/// One entry fewer is what the database says.
#[rstest]
#[case::gone(|plant: &Plant| fs::remove_file(file(plant)).unwrap())]
#[case::empty(|plant: &Plant| fs::write(file(plant), "").unwrap())]
#[case::cut(|plant: &Plant| {
    let bytes = fs::read(file(plant)).unwrap();
    fs::write(file(plant), &bytes[..bytes.len() - 100]).unwrap();
})]
#[case::another_byte_of_the_first_part(|plant: &Plant| byte_at(&file(plant), |_| 3))]
#[case::another_byte_in_the_middle(|plant: &Plant| byte_at(&file(plant), |len| len / 2))]
#[case::another_byte_of_the_index(|plant: &Plant| byte_at(&file(plant), |len| len - 20))]
#[case::another_byte_where_it_tells_of_the_index(|plant: &Plant| byte_at(&file(plant), |len| len - 8))]
#[case::long_index(|plant: &Plant| byte_at(&file(plant), |len| len - 5))]
#[case::of_another_plant(|plant: &Plant| {
    let (other, _) = lived();
    other.store.write_column_file(day(4)).unwrap();
    fs::copy(file(&other), file(plant)).unwrap();
})]
#[case::written_and_not_noted(|plant: &Plant| plant.database().execute_batch("DELETE FROM column_file").unwrap())]
#[case::noted_and_not_in_its_place(|plant: &Plant| {
    let older = fs::read(file(plant)).unwrap();
    plant.store.write_column_file(day(4)).unwrap();
    fs::write(file(plant), older).unwrap();
})]
#[case::swept_by_another_program(|plant: &Plant| {
    plant.database().execute_batch("INSERT INTO changes (kind, id) VALUES ('names', 0), ('names', 0);
        DELETE FROM changes WHERE seq < (SELECT max(seq) FROM changes)").unwrap();
})]
fn a_file_that_does_not_count_is_not_read(#[case] spoil: fn(&Plant)) {
    let (plant, _) = lived();
    let had = entries(&plant);
    plant.store.write_column_file(day(4)).unwrap();
    spoil(&plant);
    lose_an_entry(&plant);
    let plant = plant.begun_anew(day(4));
    assert_eq!(entries(&plant), had - 1);
    let [kept, read] = kept_and_read(&plant, day(4));
    assert_eq!(differing(&read, &kept), [""; 0]);
}

/// The file that lies there knows what the database that was put back does not.
#[test]
fn beside_a_database_that_was_put_back_the_file_does_not_count() {
    let (plant, mut made) = lived();
    plant.store.write_column_file(day(4)).unwrap();
    let had = entries(&plant);
    plant.store.close().unwrap();
    let older = fs::read(plant.store.path()).unwrap();
    take(&plant, &mut made, [(day(5), (3, 0, 0, 1))]);
    plant.store.write_column_file(day(5)).unwrap();
    let newer = fs::read(file(&plant)).unwrap();
    let plant = plant.begun_anew(day(5));
    assert_eq!(entries(&plant), had + 1);
    // Ended, put back, and something else done since than was done before.
    let folder = tempfile::tempdir().unwrap();
    fs::write(folder.path().join("fair-tally.db"), older).unwrap();
    fs::write(folder.path().join("fair-tally.columns"), newer).unwrap();
    let open = || Store::open(folder.path(), day(6)).unwrap();
    let count = |store: &Store| store.read(day(6), |view| Ok::<_, StoreError>(view.facts()?.entries.len())).unwrap();
    let store = open();
    assert_eq!(count(&store), had);
    for _ in 0..2 {
        store.write(plant.admin.clone(), day(6), |tx| take_step(tx, &mut made, (0, 0, 3, 1))).unwrap();
    }
    drop(store);
    assert_eq!(count(&open()), had);
}

/// Of few facts none is written by itself; and while one server is in the folder nobody else writes it.
#[test]
fn it_is_written_where_it_pays() {
    let (plant, _) = lived();
    assert!(!plant.store.wants_column_file(day(4)).unwrap(), "facts have not been read");
    entries(&plant);
    assert!(!plant.store.wants_column_file(day(4)).unwrap(), "facts are few");
    assert!(!file(&plant).exists());
}

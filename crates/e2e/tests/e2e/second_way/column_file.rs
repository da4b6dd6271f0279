//! Facts of the column file, row by row beside those that the database tells.

use super::{Plant, demo, large};
use tally_store::{Store, StoreError, facts};

/// How many rows are the same.
fn same_rows(plant: &Plant) -> usize {
    let copied = plant.store.copy(plant.now).unwrap();
    copied.store.write_column_file(plant.now).unwrap();
    let begun = Store::open(copied.store.path().parent().unwrap(), plant.now).unwrap();
    let compared = begun.read(plant.now, |view| {
        let (by_file, told) = (view.facts()?, facts::load(view)?);
        assert_eq!(by_file.names, told.names);
        let mut rows = 0;
        macro_rules! same {
            ($($kind:ident),+) => {$(
                assert!(by_file.$kind.rows().eq(told.$kind.rows()), stringify!($kind));
                rows += by_file.$kind.len();
            )+};
        }
        same!(entries, spent, downtimes, down_of_work, failures, works, moves, fields, steps, alarms, cycles);
        Ok::<_, StoreError>(rows)
    });
    compared.unwrap()
}

#[test]
fn of_the_demo() {
    let rows = same_rows(demo());
    assert!(rows > 10_000, "{rows}");
}

#[test]
fn of_a_plant_of_20_000_assets() {
    let rows = same_rows(large());
    assert!(rows > 200_000, "{rows}");
}

//! What the storeroom keeps: what all lifts use, and what fits one of them only.

use super::{lifts::Lift, table};
use tally_store::{Result, Tx, plant::master::Kind};

const COLUMNS: [&str; 7] = ["code", "name", "place", "stock", "lead_days", "price", "fits"];

/// Item, place, in stock, days to get it, price of one, suffixes of the assets of each lift that it fits.
type Part = (&'static str, &'static str, u32, u32, f64, &'static [&'static str]);

const OF_ALL: &[Part] = &[
    ("Set of brake pads", "A 02-1", 3, 42, 612.0, &["DRV-SBR", "DRV-EBR"]),
    ("Seal kit", "A 02-3", 0, 21, 96.0, &["DRV-SBR", "DRV-EBR", "TEN-CYL"]),
    ("Position switch", "A 03-2", 6, 10, 68.4, &["DRV-SBR", "DRV-EBR"]),
    ("Contactor", "A 04-1", 4, 7, 119.0, &["TEN-PA", "TEN-PB"]),
    ("Hose, 2 m, crimped", "B 01-4", 2, 9, 184.5, &["TEN-CYL", "TEN-ACC"]),
    ("Filter elements", "B 01-1", 5, 14, 41.0, &["TEN-PA", "TEN-PB", "DRV-GBX-LUB", "DRV-AUX"]),
    ("Shaft seal", "B 02-2", 1, 28, 231.0, &["DRV-GBX"]),
    ("Filter mats", "A 05-1", 14, 5, 31.0, &["DRV-CNV"]),
    ("Fan", "A 05-3", 1, 16, 147.0, &["DRV-CNV-FAN"]),
    ("Battery set", "A 06-1", 1, 12, 216.0, &["DRV-CTL-UPS"]),
    ("Starter battery", "A 06-2", 2, 6, 163.0, &["DRV-AUX"]),
    ("Liner segment", "C 01-1", 22, 60, 128.0, &["DRV-BWH-LNR", "RET-BWH-LNR"]),
    ("Grease cartridge", "C 02-1", 38, 4, 14.5, &["DRV-BWH-BRG", "RET-BWH"]),
    ("Rope grease, 20 kg", "C 03-1", 2, 8, 172.0, &["LIN-ROP"]),
    ("Engine oil, 20 l", "C 03-2", 3, 4, 118.0, &["DRV-AUX"]),
    ("Gear oil, 180 l", "C 03-4", 0, 18, 1_240.0, &["DRV-GBX"]),
    ("Cable joint", "A 07-1", 9, 6, 59.0, &["LIN-SIG"]),
    ("Cleaning spray and grease", "C 02-4", 12, 3, 23.5, &["DRV-SBR"]),
    ("Wind gauge", "A 08-1", 1, 35, 890.0, &["LIN-WND"]),
    ("Relief valve", "B 03-1", 4, 20, 174.0, &["TEN-ACC"]),
];

/// What is made for one lift: item, place, in stock, days to get it, price, suffix of the asset.
type Own = (&'static str, &'static str, u32, u32, f64, &'static str);

const OF_ONE: &[Own] = &[
    ("Main motor, brush set", "D 01", 2, 30, 340.0, "DRV-MOT"),
    ("Gearbox, input bearing", "D 02", 1, 84, 1_870.0, "DRV-GBX"),
    ("Gearbox, output bearing", "D 03", 0, 112, 2_960.0, "DRV-GBX"),
    ("Coupling, elastic ring", "D 04", 3, 25, 210.0, "DRV-CPL"),
    ("Service brake, disc", "D 05", 0, 70, 1_480.0, "DRV-SBR"),
    ("Emergency brake, spring pack", "D 06", 1, 56, 980.0, "DRV-EBR"),
    ("Drive bullwheel, bearing", "D 07", 1, 140, 6_400.0, "DRV-BWH-BRG"),
    ("Return bullwheel, bearing", "D 08", 0, 140, 6_100.0, "RET-BWH"),
    ("Tension cylinder, rod", "D 09", 0, 98, 3_350.0, "TEN-CYL"),
    ("Tension pump, rebuilt", "D 10", 1, 45, 2_150.0, "TEN-PA"),
    ("Pressure sensor", "D 11", 2, 15, 265.0, "TEN-ACC"),
    ("Converter, power module", "D 12", 0, 63, 4_200.0, "DRV-CNV"),
    ("Speed encoder", "D 13", 1, 28, 720.0, "DRV-CTL-ENC"),
    ("Control, input card", "D 14", 1, 40, 560.0, "DRV-CTL"),
    ("Rope, splice kit", "D 15", 1, 20, 430.0, "LIN-ROP"),
    ("Signal cable, 50 m", "D 16", 1, 24, 390.0, "LIN-SIG"),
    ("Platform gate, drive", "D 17", 0, 33, 680.0, "RET-GAT"),
    ("Rescue engine, injector", "D 18", 2, 19, 150.0, "DRV-AUX"),
    ("Lubrication unit, pump", "D 19", 1, 27, 510.0, "DRV-GBX-LUB"),
    ("Converter, control board", "D 20", 0, 50, 1_650.0, "DRV-CNV"),
    ("Battery supply, charger", "D 21", 1, 22, 310.0, "DRV-CTL-UPS"),
    ("Drive bullwheel, scraper", "D 22", 4, 12, 88.0, "DRV-BWH-LNR"),
    ("Return bullwheel, scraper", "D 23", 4, 12, 84.0, "RET-BWH-LNR"),
    ("Emergency brake, cable", "D 24", 1, 11, 132.0, "DRV-EBR"),
    ("Tension pump, motor", "D 25", 0, 30, 940.0, "TEN-PB"),
];

/// Writes the list; of one lift alone only what is there of it.
pub fn add(tx: &mut Tx, lifts: &[Lift]) -> Result<()> {
    let mut rows: Vec<Vec<String>> = Vec::new();
    let row = |code: String, name: String, place: String, (stock, days, price): (u32, u32, f64), fits: String| {
        vec![code, name, place, stock.to_string(), days.to_string(), format!("{price:.2}"), fits]
    };
    for (place, &(name, shelf, stock, days, price, suffixes)) in OF_ALL.iter().enumerate() {
        let fits = lifts.iter().flat_map(|lift| suffixes.iter().map(|suffix| lift.at(suffix)));
        let fits: Vec<String> = fits.collect();
        let code = format!("K-{:03}", place + 1);
        rows.push(row(code, name.into(), shelf.into(), (stock, days, price), fits.join(" | ")));
    }
    for lift in lifts {
        for (place, &(name, shelf, stock, days, price, suffix)) in OF_ONE.iter().enumerate() {
            let code = lift.at(&format!("K-{:02}", place + 1));
            let (name, shelf) = (format!("{name}, {}", lift.code), format!("{shelf}, {}", lift.code));
            rows.push(row(code, name, shelf, (stock, days, price), lift.at(suffix)));
        }
    }
    table::take(tx, Kind::Storeroom, &COLUMNS, rows)
}

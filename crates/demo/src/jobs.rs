//! Work that the history is made of: what is done when it is done, and the faults that come back.

use crate::plant::lifts::Lift;
use jiff::civil::Date;
use tally_core::{
    codes::failures::{Effect, Noticed},
    ground::ids::WorkOrderId,
    plant::downtime::DowntimeKind,
    work::WorkKind,
};

/// A crew, by code.
pub type Crew = &'static str;

/// What was bought, and its price in minor units.
pub type Bought = (&'static str, i64);

/// Who does it, and how long.
#[derive(Debug, Clone)]
pub enum Hands {
    /// So many hours, shared by people of the crew.
    Shared(Crew, f64),
    /// Each of these so many quarter hours.
    Named(Vec<(&'static str, i64)>),
}

/// What work comes to when it is done.
#[derive(Debug, Clone)]
pub struct Job {
    pub hands: Hands,
    pub material: Option<Bought>,
    pub service: Option<Bought>,
    /// Asset and hours, ending when the job is done.
    pub stop: Option<(String, DowntimeKind, f64)>,
    pub failure: Option<Fault>,
    /// The meter whose limit raised it.
    pub meter: Option<String>,
    /// What its alarm turned out to be, for such a meter.
    pub found_nothing: bool,
}

impl Job {
    pub fn new(hands: Hands) -> Self {
        let (material, service, stop, failure, meter) = (None, None, None, None, None);
        Self { hands, material, service, stop, failure, meter, found_nothing: false }
    }
}

/// A coded failure: asset, problem, cause, remedy, effect.
#[derive(Debug, Clone)]
pub struct Fault {
    pub asset: String,
    pub codes: [&'static str; 3],
    pub effect: Effect,
    pub noticed: Noticed,
}

#[derive(Debug, Clone)]
pub enum Step {
    Plan(WorkOrderId),
    Ready(WorkOrderId),
    /// It is to begin on that day.
    Schedule(WorkOrderId, Date),
    Wait(WorkOrderId),
    /// Whoever is asked decides that it runs on until that day.
    RunOn(WorkOrderId, Date),
    Start(WorkOrderId, Job),
    Finish(WorkOrderId, Job),
    Close(WorkOrderId),
    /// Somebody reports it again: who, and what they say.
    ReportAgain(WorkOrderId, &'static str, &'static str),
}

/// A fault noticed in operation.
pub fn fault(asset: impl Into<String>, codes: [&'static str; 3], effect: Effect) -> Fault {
    Fault { asset: asset.into(), codes, effect, noticed: Noticed::Operation }
}

/// A fault that comes back on every lift now and then: title, asset, codes, effect, crew, hours, material, hours of stop,
/// times in ten years.
pub type Recurring = (&'static str, &'static str, [&'static str; 3], Effect, Crew, f64, Option<Bought>, f64, u32);

use Effect::{Critical, Degraded, Incipient};

pub const RECURRING: &[Recurring] = &[
    (
        "Service brake position switch fails",
        "DRV-SBR",
        ["SWITCH", "SWBAD", "RSWIT"],
        Critical,
        "elec",
        1.5,
        Some(("Position switch", 6_840)),
        0.9,
        22,
    ),
    (
        "Service brake opens too slowly",
        "DRV-SBR",
        ["SLOW", "DIRT", "RCLEA"],
        Degraded,
        "mech",
        2.0,
        Some(("Cleaning spray and grease", 2_350)),
        0.0,
        26,
    ),
    ("Emergency brake cable damaged", "DRV-EBR", ["SWITCH", "CABLE", "RCABL"], Critical, "elec", 2.5, None, 1.6, 8),
    (
        "Tension pump A does not start",
        "TEN-PA",
        ["NOSTART", "CONTA", "RCONT"],
        Degraded,
        "elec",
        1.8,
        Some(("Contactor", 11_900)),
        2.5,
        14,
    ),
    (
        "Tension pump B does not start",
        "TEN-PB",
        ["NOSTART", "CONTA", "RCONT"],
        Degraded,
        "elec",
        1.8,
        Some(("Contactor", 11_900)),
        2.5,
        10,
    ),
    (
        "Hose of the tension unit chafed",
        "TEN-CYL",
        ["LEAK", "HOSE", "RHOSE"],
        Degraded,
        "hydr",
        3.0,
        Some(("Hose, 2 m, crimped", 18_450)),
        0.0,
        12,
    ),
    ("Tension too low after a warm night", "TEN-CYL", ["PLOW", "VALVE", "RVADJ"], Critical, "hydr", 1.2, None, 0.7, 24),
    (
        "Gearbox sweats oil at the output seal",
        "DRV-GBX",
        ["LEAK", "SEAL", "RSEAL"],
        Degraded,
        "mech",
        5.0,
        Some(("Shaft seal", 23_100)),
        0.0,
        8,
    ),
    (
        "Loose joint at the lubrication unit",
        "DRV-GBX-LUB",
        ["LEAK", "JOINT", "RTIGH"],
        Incipient,
        "mech",
        0.8,
        None,
        0.0,
        18,
    ),
    (
        "Converter trips on over-temperature",
        "DRV-CNV",
        ["TRIP", "HOTCNV", "RMATS"],
        Critical,
        "elec",
        1.3,
        Some(("Filter mats", 3_100)),
        0.6,
        30,
    ),
    (
        "Converter fan stands",
        "DRV-CNV-FAN",
        ["FAN", "FANBR", "RFAN"],
        Degraded,
        "elec",
        1.6,
        Some(("Fan", 14_700)),
        0.0,
        12,
    ),
    (
        "Speed signal lost for a moment",
        "DRV-CTL-ENC",
        ["SIGNAL", "PLUG", "RPLUG"],
        Critical,
        "elec",
        0.9,
        None,
        0.4,
        40,
    ),
    (
        "Battery supply reports low capacity",
        "DRV-CTL-UPS",
        ["BATT", "AGED", "RBATT"],
        Incipient,
        "elec",
        1.1,
        Some(("Battery set", 21_600)),
        0.0,
        10,
    ),
    (
        "Bullwheel liner cracked",
        "RET-BWH",
        ["LINER", "AGEDL", "RLINER"],
        Degraded,
        "mech",
        4.5,
        Some(("Liner segment", 12_800)),
        0.0,
        9,
    ),
    (
        "Bullwheel bearing runs dry",
        "DRV-BWH-BRG",
        ["DRY", "NOGREA", "RGREA"],
        Incipient,
        "mech",
        1.0,
        Some(("Grease cartridge", 1_450)),
        0.0,
        20,
    ),
    (
        "Rescue engine does not start at the test",
        "DRV-AUX",
        ["NOSTART", "BATFL", "RBAT"],
        Degraded,
        "mech",
        1.4,
        Some(("Starter battery", 16_300)),
        0.0,
        14,
    ),
    (
        "Signal cable: insulation fault after rain",
        "LIN-SIG",
        ["SIGNAL", "WET", "RJOINT"],
        Critical,
        "elec",
        2.8,
        Some(("Cable joint", 5_900)),
        1.1,
        22,
    ),
    ("Wind gauge iced up", "LIN-WND", ["SIGNAL", "ICE", "RHEAT"], Degraded, "elec", 1.2, None, 0.0, 26),
    (
        "Haul rope strand bent by a foreign body",
        "LIN-ROP",
        ["STRAND", "FOREIGN", "RDRESS"],
        Degraded,
        "line",
        6.0,
        None,
        2.2,
        4,
    ),
    (
        "Platform gate of the return station jams",
        "RET-GAT",
        ["GATE", "DIRTG", "RCLEANG"],
        Degraded,
        "mech",
        0.7,
        None,
        0.0,
        46,
    ),
];

/// How far work on the pile has come.
#[derive(Debug, Clone, Copy)]
pub enum Ahead {
    Nobody,
    Planned,
    Waits,
}

/// Days before today, title, asset, kind, rank, hours, how far it has come.
pub type Piled = (i32, &'static str, &'static str, WorkKind, u8, f64, Ahead);

use Ahead::{Nobody, Planned, Waits};
use WorkKind::{CorrectiveDeferred, Improvement, Inspection};

pub const PILE: &[Piled] = &[
    (142, "Fit a particle counter to the gearbox oil", "G1-DRV-GBX-LUB", Improvement, 4, 14.0, Waits),
    (131, "Renew the seals of the tension cylinder", "F4-TEN-CYL", CorrectiveDeferred, 3, 11.0, Waits),
    (118, "Replace the cracked window of car 2", "T3-VEH-C02", CorrectiveDeferred, 4, 6.0, Waits),
    (104, "Spare encoder for the drive", "C2-DRV-CTL-ENC", CorrectiveDeferred, 3, 2.0, Waits),
    (96, "Renew the relief valve of the tension unit", "G1-TEN-CYL", CorrectiveDeferred, 3, 6.0, Waits),
    (88, "Replace the worn rollers of section 11", "F4-LIN-S11", CorrectiveDeferred, 3, 9.0, Waits),
    (74, "Fit a second wind gauge at tower 9", "C2-LIN-WND", Improvement, 4, 16.0, Planned),
    (61, "Replace the worn guide of the service brake", "G1-DRV-SBR", CorrectiveDeferred, 3, 5.5, Waits),
    (55, "Replace the converter's control board", "T3-DRV-CNV", CorrectiveDeferred, 2, 4.0, Waits),
    (47, "Rewire the position switches in conduit", "G1-DRV-SBR", Improvement, 4, 18.0, Planned),
    (41, "Renew the radio link of carriage 1", "F4-VEH-C01-RAD", CorrectiveDeferred, 3, 3.0, Waits),
    (38, "Door of cabin 9 closes late", "G1-VEH-C09-DOR", CorrectiveDeferred, 4, 2.0, Planned),
    (33, "Door of cabin 17 closes late", "G1-VEH-C17-DOR", CorrectiveDeferred, 4, 2.0, Waits),
    (29, "Compressor runs on too long", "WSH-CMP", CorrectiveDeferred, 4, 2.5, Planned),
    (19, "Guard of the drive bullwheel rattles", "G1-DRV-BWH", CorrectiveDeferred, 3, 2.5, Planned),
    (15, "Chair 44 hangs askew", "C2-VEH-C44", CorrectiveDeferred, 3, 1.5, Planned),
    (12, "Repaint the ladder of tower 6", "G1-LIN-T06", Improvement, 5, 8.0, Nobody),
    (8, "Service brake squeals when wet", "C2-DRV-SBR", CorrectiveDeferred, 3, 2.0, Nobody),
    (6, "Non-drive-end bearing hums at start", "G1-DRV-MOT", CorrectiveDeferred, 2, 3.0, Planned),
    (4, "Heater of the driver's cabin weak", "T3-VEH-C01", CorrectiveDeferred, 4, 1.5, Nobody),
    (2, "Oil stain below tension pump B", "G1-TEN-PB", CorrectiveDeferred, 3, 1.5, Nobody),
    (1, "Measure the rope length after the cold spell", "G1-LIN-ROP", Inspection, 3, 3.0, Nobody),
];

/// Work that comes by the calendar.
pub struct Due {
    pub title: String,
    pub asset: String,
    pub kind: WorkKind,
    pub rank: u8,
    pub crew: Crew,
    pub hours: f64,
    pub material: Option<Bought>,
    pub service: Option<Bought>,
    /// Days until which it is begun.
    pub within: i32,
}

impl Due {
    pub fn new(title: impl Into<String>, asset: String, kind: WorkKind, crew: Crew, hours: f64) -> Self {
        let rank = if kind == WorkKind::Predetermined { 3 } else { 4 };
        Self { title: title.into(), asset, kind, rank, crew, hours, material: None, service: None, within: 4 }
    }

    pub fn with(self, what: &'static str, price: i64) -> Self {
        Self { material: Some((what, price)), ..self }
    }

    pub fn within(self, days: i32) -> Self {
        Self { within: days, ..self }
    }
}

/// Whether the pile's asset stands on one of these lifts.
pub fn is_there(asset: &str, lifts: &[Lift]) -> bool {
    lifts.len() > 1 || lifts.iter().any(|lift| asset.starts_with(lift.code))
}

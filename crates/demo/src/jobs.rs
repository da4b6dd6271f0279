//! Work that the history is made of: what is done when it is done, faults that come back, and the pile that waits.

use tally_core::{
    downtime::DowntimeKind,
    failures::{Effect, Noticed},
    ids::WorkOrderId,
    work::WorkKind,
};

/// What a job comes to when it is done.
#[derive(Debug, Clone)]
pub struct Job {
    pub number: WorkOrderId,
    pub crew: &'static [&'static str],
    pub hours: f64,
    /// What it was, and its price in minor units.
    pub material: Option<(&'static str, i64)>,
    pub service: Option<(&'static str, i64)>,
    /// Asset and hours, ending when the job is done.
    pub stop: Option<(&'static str, DowntimeKind, f64)>,
    pub failure: Option<Fault>,
    /// The meter whose limit raised it.
    pub meter: Option<String>,
}

/// A coded failure: asset, problem, cause, remedy, effect.
#[derive(Debug, Clone, Copy)]
pub struct Fault {
    pub asset: &'static str,
    pub codes: [&'static str; 3],
    pub effect: Effect,
    pub noticed: Noticed,
}

#[derive(Debug, Clone)]
pub enum Step {
    Plan(WorkOrderId),
    Ready(WorkOrderId),
    Wait(WorkOrderId),
    Start(Job),
    Finish(Job),
    Close(WorkOrderId),
}

pub const MECH: &[&str] = &["tobin", "ysolde", "perrin"];
pub const ELEC: &[&str] = &["linnet", "edric"];
pub const LINE: &[&str] = &["wenna", "jory"];

/// A fault that comes back now and then: title, asset, codes, crew, hours, material, hours of stop, times in ten years.
pub type Recurring = (&'static str, Fault, &'static [&'static str], f64, Option<(&'static str, i64)>, f64, u32);

/// A fault noticed in operation.
pub const fn fault(asset: &'static str, codes: [&'static str; 3], effect: Effect) -> Fault {
    Fault { asset, codes, effect, noticed: Noticed::Operation }
}

pub const RECURRING: &[Recurring] = &[
    (
        "Service brake position switch fails",
        fault("G1-DRV-SBR", ["SWITCH", "SWBAD", "RSWIT"], Effect::Critical),
        ELEC,
        1.5,
        Some(("Position switch", 6_840)),
        0.9,
        22,
    ),
    (
        "Service brake opens too slowly",
        fault("G1-DRV-SBR", ["SLOW", "DIRT", "RCLEA"], Effect::Degraded),
        MECH,
        2.0,
        Some(("Cleaning spray and grease", 2_350)),
        0.0,
        26,
    ),
    (
        "Emergency brake cable damaged",
        fault("G1-DRV-EBR", ["SWITCH", "CABLE", "RCABL"], Effect::Critical),
        ELEC,
        2.5,
        None,
        1.6,
        8,
    ),
    (
        "Tension pump A does not start",
        fault("G1-TEN-PA", ["NOSTART", "CONTA", "RCONT"], Effect::Degraded),
        ELEC,
        1.8,
        Some(("Contactor", 11_900)),
        2.5,
        14,
    ),
    (
        "Tension pump B does not start",
        fault("G1-TEN-PB", ["NOSTART", "CONTA", "RCONT"], Effect::Degraded),
        ELEC,
        1.8,
        Some(("Contactor", 11_900)),
        2.5,
        10,
    ),
    (
        "Hose of the tension unit chafed",
        fault("G1-TEN-CYL", ["LEAK", "HOSE", "RHOSE"], Effect::Degraded),
        MECH,
        3.0,
        Some(("Hose, 2 m, crimped", 18_450)),
        0.0,
        12,
    ),
    (
        "Tension too low after a warm night",
        fault("G1-TEN-CYL", ["PLOW", "VALVE", "RVADJ"], Effect::Critical),
        MECH,
        1.2,
        None,
        0.7,
        30,
    ),
    (
        "Gearbox sweats oil at the output seal",
        fault("G1-DRV-GBX", ["LEAK", "SEAL", "RSEAL"], Effect::Degraded),
        MECH,
        5.0,
        Some(("Shaft seal", 23_100)),
        0.0,
        8,
    ),
    (
        "Loose joint at the lubrication unit",
        fault("G1-DRV-GBX-LUB", ["LEAK", "JOINT", "RTIGH"], Effect::Incipient),
        MECH,
        0.8,
        None,
        0.0,
        18,
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

pub const PILE: &[Piled] = &[
    (142, "Fit a particle counter to the gearbox oil", "G1-DRV-GBX-LUB", WorkKind::Improvement, 4, 14.0, Ahead::Waits),
    (
        96,
        "Renew the relief valve of the tension unit",
        "G1-TEN-CYL",
        WorkKind::CorrectiveDeferred,
        3,
        6.0,
        Ahead::Waits,
    ),
    (
        61,
        "Replace the worn guide of the service brake",
        "G1-DRV-SBR",
        WorkKind::CorrectiveDeferred,
        3,
        5.5,
        Ahead::Waits,
    ),
    (47, "Rewire the position switches in conduit", "G1-DRV-SBR", WorkKind::Improvement, 4, 18.0, Ahead::Planned),
    (38, "Door of cabin 9 closes late", "G1-VEH-C09", WorkKind::CorrectiveDeferred, 4, 2.0, Ahead::Planned),
    (33, "Door of cabin 17 closes late", "G1-VEH-C17", WorkKind::CorrectiveDeferred, 4, 2.0, Ahead::Waits),
    (19, "Guard of the drive bullwheel rattles", "G1-DRV-BWH", WorkKind::CorrectiveDeferred, 3, 2.5, Ahead::Planned),
    (12, "Repaint the ladder of tower 6", "G1-LIN-T06", WorkKind::Improvement, 5, 8.0, Ahead::Nobody),
    (6, "Non-drive-end bearing hums at start", "G1-DRV-MOT-BNE", WorkKind::CorrectiveDeferred, 2, 3.0, Ahead::Planned),
    (2, "Oil stain below tension pump B", "G1-TEN-PB", WorkKind::CorrectiveDeferred, 3, 1.5, Ahead::Nobody),
    (1, "Measure the rope length after the cold spell", "G1-LIN-ROP", WorkKind::Inspection, 3, 3.0, Ahead::Nobody),
];

/// Work that comes by the calendar: title, asset, kind, rank, crew, hours, material with its price.
pub type Due = (String, String, WorkKind, u8, &'static [&'static str], f64, Option<(&'static str, i64)>);

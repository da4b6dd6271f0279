//! The lifts, as far as they differ.

use crate::plan::Size;

/// A lift.
#[derive(Debug, Clone, Copy)]
pub struct Lift {
    pub code: &'static str,
    pub name: &'static str,
    /// What its line stands on: towers, or sections of track.
    pub support: &'static str,
    pub supports: usize,
    /// What travels on it, and whether grips hold it to the rope.
    pub vehicle: &'static str,
    pub vehicles: usize,
    pub has_grips: bool,
    /// The motor that drove it at first.
    pub motor: &'static str,
    /// Minor units.
    pub replacement_value: i64,
    /// Minor units per hour of unplanned downtime.
    pub downtime_cost: i64,
    /// What may be spent on it in the fiscal year of the demo's today.
    pub budget: i64,
}

pub const GONDOLA: Lift = Lift {
    code: "G1",
    name: "Larkspur Gondola",
    support: "Tower",
    supports: 18,
    vehicle: "Cabin",
    vehicles: 72,
    has_grips: true,
    motor: "MOT-1",
    replacement_value: 1_450_000_000,
    downtime_cost: 420_000,
    budget: 8_800_000,
};

pub const CHAIRLIFT: Lift = Lift {
    code: "C2",
    name: "Fellside Chairlift",
    support: "Tower",
    supports: 14,
    vehicle: "Chair",
    vehicles: 118,
    has_grips: true,
    motor: "MOT-2",
    replacement_value: 480_000_000,
    downtime_cost: 160_000,
    budget: 7_600_000,
};

pub const TRAMWAY: Lift = Lift {
    code: "T3",
    name: "Greyhorn Tramway",
    support: "Tower",
    supports: 4,
    vehicle: "Car",
    vehicles: 2,
    has_grips: false,
    motor: "MOT-3",
    replacement_value: 2_100_000_000,
    downtime_cost: 510_000,
    budget: 6_200_000,
};

pub const FUNICULAR: Lift = Lift {
    code: "F4",
    name: "Hollow Funicular",
    support: "Section",
    supports: 24,
    vehicle: "Carriage",
    vehicles: 2,
    has_grips: false,
    motor: "MOT-4",
    replacement_value: 1_200_000_000,
    downtime_cost: 240_000,
    budget: 7_400_000,
};

/// The lifts there are in that size.
pub fn of(size: Size) -> &'static [Lift] {
    match size {
        Size::Small => &[GONDOLA],
        Size::Full => &[GONDOLA, CHAIRLIFT, TRAMWAY, FUNICULAR],
    }
}

impl Lift {
    /// Code of an asset of this lift.
    pub fn at(&self, suffix: &str) -> String {
        if suffix.is_empty() { self.code.into() } else { format!("{}-{suffix}", self.code) }
    }

    /// Letter of the line's supports in codes: towers T, sections S.
    fn support_letter(&self) -> &'static str {
        &self.support[..1]
    }

    pub fn support_code(&self, number: usize) -> String {
        format!("{}-LIN-{}{number:02}", self.code, self.support_letter())
    }

    /// The sheave assemblies of a tower, or the rollers of a section: up and down the line.
    pub fn sheaves(&self) -> impl Iterator<Item = (usize, &'static str, String)> {
        let lift = *self;
        (1..=self.supports)
            .flat_map(move |n| ["UP", "DN"].map(|side| (n, side, format!("{}-{side}", lift.support_code(n)))))
    }

    pub fn vehicle_code(&self, number: usize) -> String {
        format!("{}-VEH-{}{number:02}", self.code, &self.vehicle[..1])
    }

    pub fn grip_code(&self, number: usize) -> String {
        format!("{}-GRP", self.vehicle_code(number))
    }
}

//! What is planned to happen in the demo, in days before its today. The tests work their figures out from here.

use jiff::{
    ToSpan,
    civil::{Date, date},
    tz::TimeZone,
};
use tally_core::ground::{calendar::zone, time::Instant};

/// The day the demo takes for today, unless told otherwise: a Monday in the winter season.
pub const TODAY: Date = date(2026, 2, 16);

/// The demo's local time. An IANA name without a place in it.
pub const TIME_ZONE: &str = "CET";

/// The instant at which the demo begins on `today`: half past ten in the morning.
#[must_use]
pub fn opening(today: Date) -> Instant {
    let zone = zone(TIME_ZONE).unwrap_or(TimeZone::UTC);
    zone.to_ambiguous_timestamp(today.at(10, 30, 0, 0)).compatible().map_or(Instant::EARLIEST, Instant::from)
}

/// How much of the plant and of its past there is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Size {
    /// The gondola with two years.
    Small,
    /// Everything, with five years.
    Full,
}

impl Size {
    pub fn years(self) -> i32 {
        match self {
            Self::Small => 2,
            Self::Full => 5,
        }
    }
}

/// The gondola's gearbox bearing fails, after these days of wear.
pub const BEARING_FAILS: i32 = 20;
pub const BEARING_WEARS: i32 = 120;

/// The gondola's tension pressure begins to fall: once long ago, and once so that it stands below its limit today.
pub const LEAKS: [i32; 2] = [430, 24];

/// The gondola's oil cooler begins to clog.
pub const COOLER_CLOGS: i32 = 198;

/// Both tension pumps of the gondola are down for a while: only then is the lift.
pub const BOTH_PUMPS_DOWN: i32 = 70;

/// A batch of liners is fitted to the gondola's towers in a maintenance window, and fails early: days after it, tower,
/// side.
pub const LINERS_FITTED: i32 = 300;
pub const LINERS_FAIL: [(i32, usize, &str); 6] =
    [(61, 3, "UP"), (64, 4, "UP"), (70, 3, "DN"), (75, 6, "UP"), (83, 5, "DN"), (97, 4, "DN")];
/// Until it tears, a liner of the bad batch wears so many times faster than others.
pub const LINERS_WEAR_TIMES: f64 = 8.0;
pub const LINERS_ON: std::ops::RangeInclusive<usize> = 3..=6;

/// The tramway's tension unit loses pressure again and again while its valve is only readjusted; then it is replaced.
pub const VALVE_READJUSTED: [i32; 4] = [520, 486, 447, 415];
pub const VALVE_REPLACED: i32 = 384;

/// A loose plug lets the vibration sensor of the chairlift's return bullwheel chatter, until somebody finds it.
pub const SENSOR_CHATTERS: std::ops::RangeInclusive<i32> = 125..=150;

/// The vibration sensor of the tramway's return bullwheel says nothing any more, since so many days.
pub const SENSOR_DEAD: i32 = 20;

/// The main motors of the gondola and the chairlift change places.
pub const MOTORS_EXCHANGED: i32 = 850;

/// Repairs of the motors, in whole minor units: days before today, motor, title, hours of linnet at 51.00, material.
pub const MOTOR_REPAIRS: [(i32, &str, &str, i64, i64); 4] = [
    (1_240, "MOT-1", "Rewind the auxiliary winding", 24, 412_000),
    (1_015, "MOT-2", "Replace the motor's encoder", 6, 88_500),
    (655, "MOT-1", "Replace the drive-end bearing of the motor", 14, 63_200),
    (401, "MOT-2", "Clean and dry the winding", 10, 9_900),
];

/// In these days a new supplier sold the parts, dearer by a third.
pub const NEW_SUPPLIER: std::ops::Range<i32> = 730..1_095;

/// Who sold what: the new supplier while it did, and of the others each what it deals in.
pub const NEW: &str = "Tarnfield Supply";
pub const SERVICES: &str = "Brackenrow Works";
const HYDRAULICS: &str = "Oxgill Hydraulics";
const PARTS: &str = "Harnell & Daughters";

/// Who sells something.
#[must_use]
pub fn supplier(what: &str, new_one: bool) -> &'static str {
    let what = what.to_lowercase();
    match ["oil", "seal", "filter", "grease", "valve", "hydraulic"].iter().any(|word| what.contains(word)) {
        _ if new_one => NEW,
        true => HYDRAULICS,
        false => PARTS,
    }
}

/// The gondola runs at half its speed from nine to four, these days before today.
pub const SLOWED: [i32; 3] = [44, 43, 42];
pub const SLOWED_BY: f64 = 0.5;

/// Days of a stormy winter on which every lift stood from 09:00 to 15:00.
pub const STORMS: [i32; 14] = [795, 788, 781, 774, 770, 761, 752, 746, 738, 735, 722, 715, 708, 701];

/// What limits handed up to the manager is open where it is no older than so many days.
pub const UNDECIDED_FOR: i32 = 6;

/// Upkeep plans are set up so many days before today.
pub const PLANS_SINCE: i32 = 70;

/// The funicular's converter is shelved while its filter mats are on order: from and until so many days before today.
pub const SHELVED: (i32, i32) = (3, -9);

/// A reading of the chairlift's tension that the gateway held back: sent, and taken, so many days before today.
pub const SENT_LATE: (i32, i32) = (2, 4);

/// The gondola's tension sensor reads nonsense once.
pub const NONSENSE: i32 = 1;

/// The day that many days before today.
pub fn before(today: Date, days: i32) -> Date {
    today.saturating_sub(days.days())
}

/// Days from `from` to `to`, negative when `to` comes first.
pub fn days(from: Date, to: Date) -> i32 {
    from.until(to).map_or(0, |span| span.get_days())
}

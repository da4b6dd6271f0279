//! Who works there.

use super::table;
use tally_core::access::roles::Role;
use tally_store::{
    Result, Tx,
    access::{
        people,
        people::{Crew, Person},
    },
    plant::master::Kind,
};

/// Code, name, department, weekly hours.
const CREWS: &[(&str, &str, &str, f64)] = &[
    ("mech", "Mechanics", "Mechanical", 245.0),
    ("elec", "Electricians", "Electrical", 175.0),
    ("line", "Line crew", "Mechanical", 245.0),
    ("hydr", "Hydraulics", "Mechanical", 105.0),
    ("shop", "Workshop", "Workshop", 140.0),
];

/// Code, name, minor units an hour.
type Hand = (&'static str, &'static str, i64);

const MECH: &[Hand] = &[
    ("tobin", "Tobin Ashgrove", 4_800),
    ("ysolde", "Ysolde Brack", 5_200),
    ("perrin", "Perrin Oakhaven", 4_600),
    ("garran", "Garran Dell", 4_700),
    ("isaut", "Isaut Merrow", 4_900),
    ("colby", "Colby Thrane", 4_400),
    ("nerys", "Nerys Whinfell", 4_600),
];
const ELEC: &[Hand] = &[
    ("linnet", "Linnet Varro", 5_100),
    ("edric", "Edric Sallow", 4_900),
    ("hedda", "Hedda Marl", 5_000),
    ("joss", "Joss Tarn", 4_700),
    ("vesper", "Vesper Holt", 5_300),
];
const LINE: &[Hand] = &[
    ("wenna", "Wenna Crowfold", 4_700),
    ("jory", "Jory Pellan", 4_700),
    ("bram", "Bram Fallow", 4_500),
    ("cerys", "Cerys Lunt", 4_600),
    ("doran", "Doran Keld", 4_800),
    ("imma", "Imma Rook", 4_400),
    ("tam", "Tam Gorse", 4_500),
];
const HYDR: &[Hand] =
    &[("orla", "Orla Finch", 5_200), ("rufus", "Rufus Carrow", 5_000), ("signy", "Signy Vane", 4_900)];
const SHOP: &[Hand] = &[
    ("piers", "Piers Hawkrigg", 4_600),
    ("anwen", "Anwen Sedge", 4_700),
    ("ludo", "Ludo Brome", 4_300),
    ("kersty", "Kersty Nook", 4_500),
];

/// The codes of a crew's people.
pub fn hands(crew: &str) -> &'static [Hand] {
    match crew {
        "elec" => ELEC,
        "line" => LINE,
        "hydr" => HYDR,
        "shop" => SHOP,
        _ => MECH,
    }
}

/// The crew of one of them.
pub fn crew_of(person: &str) -> &'static str {
    let of = |crew: &&str| hands(crew).iter().any(|hand| hand.0 == person);
    ["elec", "line", "hydr", "shop"].iter().find(|crew| of(crew)).copied().unwrap_or("mech")
}

const OTHERS: &[(&str, &str, Role, Option<i64>)] = &[
    ("aveline", "Aveline Thorsby", Role::Engineer, Some(6_400)),
    ("brannoc", "Brannoc Wray", Role::Engineer, Some(6_200)),
    ("corwin", "Corwin Haddle", Role::Planner, Some(5_800)),
    ("elspet", "Elspet Rowe", Role::Planner, Some(5_700)),
    ("maren", "Maren Quill", Role::Manager, None),
    ("hale", "Hale Minster", Role::Requester, None),
    ("odo", "Odo Fenwright", Role::Viewer, None),
    ("gateway", "Sensor gateway", Role::Gateway, None),
];

/// Adds crews and people.
pub fn add(tx: &mut Tx) -> Result<()> {
    for &(code, name, role, rate) in OTHERS {
        people::add(tx, &Person { code: code.into(), name: name.into(), role, crew: None, rate, mail: mail(code) })?;
    }
    for &(crew, name, department, weekly_hours) in CREWS {
        let new = Crew { code: crew.into(), name: name.into(), department: department.into(), weekly_hours };
        people::add_crew(tx, &new)?;
        for &(code, name, rate) in hands(crew) {
            let role = Role::Technician;
            let person = Person {
                code: code.into(),
                name: name.into(),
                role,
                crew: Some(crew.into()),
                rate: Some(rate),
                mail: mail(code),
            };
            people::add(tx, &person)?;
        }
    }
    Ok(())
}

/// An address that goes nowhere: names ending in `.example` are set aside for such (RFC 2606).
fn mail(code: &str) -> Option<String> {
    Some(format!("{code}@ombersett.example"))
}

/// Somebody is away on days such as `2026-03-02..2026-03-06`.
pub fn are_away(tx: &mut Tx, person: &str, days: &str) -> Result<()> {
    table::take(tx, Kind::People, &["code", "away"], vec![vec![person.into(), days.into()]])
}

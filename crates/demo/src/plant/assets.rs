//! The tree.

use super::{lifts::Lift, table};
use jiff::civil::Date;
use tally_core::plant::values::{NewValue, ValueKind};
use tally_core::{
    ground::time::Instant,
    plant::assets::{AssetKind, Criticality, Level, ParentEffect},
};
use tally_store::{
    Result, Tx,
    plant::{assets, master::Kind, values},
};

use Criticality::{A, B, C};
use Level::{Equipment, Part, Site, System, Unit};

/// Code or suffix, name, level, parent, class, criticality, crew, whether its being down puts the parent down.
type Row = (&'static str, &'static str, Level, &'static str, Option<&'static str>, Criticality, &'static str, bool);

/// Below every lift.
const STATIONS: &[Row] = &[
    ("DRV", "Drive station", System, "", None, A, "mech", true),
    ("DRV-MOT", "Main motor", Equipment, "DRV", Some("motor"), A, "elec", true),
    ("DRV-CNV", "Drive converter", Equipment, "DRV", Some("converter"), A, "elec", true),
    ("DRV-CNV-FAN", "Converter fan", Part, "DRV-CNV", Some("converter"), B, "elec", false),
    ("DRV-CTL", "Control cabinet", Equipment, "DRV", Some("controls"), A, "elec", true),
    ("DRV-CTL-ENC", "Speed encoder", Part, "DRV-CTL", Some("controls"), A, "elec", true),
    ("DRV-CTL-UPS", "Battery supply", Part, "DRV-CTL", Some("controls"), B, "elec", false),
    ("DRV-GBX", "Main gearbox", Equipment, "DRV", Some("gearbox"), A, "mech", true),
    ("DRV-GBX-HSS", "High-speed shaft", Part, "DRV-GBX", Some("gearbox"), A, "mech", true),
    ("DRV-GBX-HSB", "High-speed shaft bearing", Part, "DRV-GBX-HSS", Some("gearbox"), A, "mech", true),
    ("DRV-GBX-LSS", "Low-speed shaft", Part, "DRV-GBX", Some("gearbox"), A, "mech", true),
    ("DRV-GBX-LUB", "Lubrication unit", Part, "DRV-GBX", Some("gearbox"), B, "mech", true),
    ("DRV-GBX-PMP", "Oil pump", Part, "DRV-GBX-LUB", Some("gearbox"), B, "mech", false),
    ("DRV-GBX-BRT", "Breather", Part, "DRV-GBX", Some("gearbox"), C, "mech", false),
    ("DRV-CPL", "Coupling", Equipment, "DRV", Some("gearbox"), A, "mech", true),
    ("DRV-GBX-CLR", "Oil cooler", Part, "DRV-GBX-LUB", Some("gearbox"), B, "mech", false),
    ("DRV-BWH", "Drive bullwheel", Equipment, "DRV", Some("bullwheel"), A, "mech", true),
    ("DRV-BWH-BRG", "Bullwheel bearing", Part, "DRV-BWH", Some("bearing"), A, "mech", true),
    ("DRV-SBR", "Service brake", Equipment, "DRV", Some("brakes"), A, "mech", true),
    ("DRV-EBR", "Emergency brake", Equipment, "DRV", Some("brakes"), A, "mech", true),
    ("DRV-SBR-CYL", "Brake cylinder", Part, "DRV-SBR", Some("hydraulics"), A, "hydr", true),
    ("DRV-SBR-SWI", "Position switches", Part, "DRV-SBR", Some("brakes"), B, "elec", true),
    ("DRV-EBR-CYL", "Brake cylinder", Part, "DRV-EBR", Some("hydraulics"), A, "hydr", true),
    ("DRV-EBR-SWI", "Position switches", Part, "DRV-EBR", Some("brakes"), B, "elec", true),
    ("DRV-BWH-LNR", "Bullwheel liner", Part, "DRV-BWH", Some("bullwheel"), B, "mech", true),
    ("DRV-AUX", "Rescue drive", Equipment, "DRV", Some("engine"), B, "mech", false),
    ("DRV-AUX-BAT", "Starter battery", Part, "DRV-AUX", Some("engine"), B, "mech", false),
    ("TEN", "Hydraulic tension", System, "", Some("hydraulics"), A, "hydr", true),
    ("TEN-CYL", "Tension cylinder", Equipment, "TEN", Some("hydraulics"), A, "hydr", true),
    ("TEN-VLV", "Relief valve", Part, "TEN-CYL", Some("hydraulics"), A, "hydr", true),
    ("TEN-PA", "Tension pump A", Equipment, "TEN", Some("hydraulics"), B, "hydr", false),
    ("TEN-PB", "Tension pump B", Equipment, "TEN", Some("hydraulics"), B, "hydr", false),
    ("TEN-TNK", "Oil tank", Part, "TEN", Some("hydraulics"), C, "hydr", false),
    ("TEN-ACC", "Accumulator", Part, "TEN", Some("hydraulics"), B, "hydr", false),
    ("TEN-GAU", "Pressure gauge", Part, "TEN-CYL", Some("hydraulics"), C, "hydr", false),
    ("TEN-FLT", "Oil filter", Part, "TEN", Some("hydraulics"), C, "hydr", false),
    ("RET", "Return station", System, "", None, A, "mech", true),
    ("RET-BWH", "Return bullwheel", Equipment, "RET", Some("bullwheel"), A, "mech", true),
    ("RET-BWH-BRG", "Bullwheel bearing", Part, "RET-BWH", Some("bearing"), A, "mech", true),
    ("RET-BWH-LNR", "Bullwheel liner", Part, "RET-BWH", Some("bullwheel"), B, "mech", true),
    ("RET-GAT", "Platform gate", Equipment, "RET", Some("controls"), C, "mech", false),
    ("RET-CTL", "Station controls", Equipment, "RET", Some("controls"), B, "elec", true),
    ("LIN", "Line", System, "", None, A, "line", true),
    ("LIN-ROP", "Haul rope", Equipment, "LIN", Some("rope"), A, "line", true),
    ("LIN-SIG", "Signal cable", Equipment, "LIN", Some("controls"), B, "elec", true),
    ("LIN-WND", "Wind gauge", Equipment, "LIN", Some("controls"), B, "elec", false),
    ("VEH", "Vehicles", System, "", None, B, "line", false),
];

const WORKSHOP: &[Row] = &[
    ("WSH", "Workshop", Unit, "OMB", None, C, "shop", false),
    ("WSH-CMP", "Air compressor", Equipment, "WSH", Some("workshop"), B, "shop", false),
    ("WSH-CMP-DRY", "Air dryer", Part, "WSH-CMP", Some("workshop"), C, "shop", false),
    ("WSH-LAT", "Lathe", Equipment, "WSH", Some("workshop"), C, "shop", false),
    ("WSH-MIL", "Milling machine", Equipment, "WSH", Some("workshop"), C, "shop", false),
    ("WSH-CRN", "Overhead crane", Equipment, "WSH", Some("workshop"), B, "shop", false),
    ("WSH-GRT", "Grip test bench", Equipment, "WSH", Some("workshop"), A, "shop", false),
    ("WSH-GRT-CYL", "Test cylinder", Part, "WSH-GRT", Some("hydraulics"), A, "shop", true),
    ("WSH-HST", "Chain hoist", Equipment, "WSH", Some("workshop"), C, "shop", false),
    ("WSH-WLD", "Welding set", Equipment, "WSH", Some("workshop"), C, "shop", false),
];

/// An asset that is put together with [`Adding::add`].
struct Adding<'a, 'b> {
    tx: &'a mut Tx<'b>,
    since: Instant,
}

impl Adding<'_, '_> {
    fn add(&mut self, row: Row, parent_effect: ParentEffect, code: &str, name: &str, parent: &str) -> Result<()> {
        let (_, _, level, _, class, criticality, crew, _) = row;
        assets::add(
            self.tx,
            &assets::NewAsset {
                code: code.into(),
                name: name.into(),
                kind: if level == Part { AssetKind::Item } else { AssetKind::Position },
                level,
                parent: (!parent.is_empty()).then(|| parent.into()),
                class: class.map(Into::into),
                maker: None,
                model: None,
                serial: None,
                tags: vec![],
                commissioned_at: Some(self.since),
                retired_at: None,
                replacement_value: None,
                downtime_cost: None,
                criticality: Some(criticality),
                crew: Some(crew.into()),
                parent_effect,
            },
        )?;
        Ok(())
    }

    fn row(&mut self, row: Row, prefix: &str) -> Result<()> {
        let (suffix, name, _, parent, .., puts_down) = row;
        let place = |suffix: &str| match (prefix, suffix) {
            ("", suffix) => suffix.to_owned(),
            (prefix, "") => prefix.to_owned(),
            (prefix, suffix) => format!("{prefix}-{suffix}"),
        };
        let effect = match suffix {
            "TEN-PA" | "TEN-PB" => ParentEffect::Group { name: "tension pumps".into(), needs: 1 },
            _ if puts_down => ParentEffect::Yes,
            _ => ParentEffect::No,
        };
        self.add(row, effect, &place(suffix), name, &place(parent))
    }

    fn line(&mut self, lift: &Lift) -> Result<()> {
        let class = if lift.support == "Section" { "track" } else { "sheaves" };
        let assembly = if lift.support == "Section" { "rollers" } else { "sheaves" };
        for n in 1..=lift.supports {
            let (code, name) = (lift.support_code(n), format!("{} {n}", lift.support));
            let support = ("", "", Equipment, "", Some(class), B, "line", true);
            self.add(support, ParentEffect::Yes, &code, &name, &lift.at("LIN"))?;
        }
        for (n, side, code) in lift.sheaves() {
            let way = if side == "UP" { "up" } else { "down" };
            let name = format!("{} {n} {assembly}, {way}", lift.support);
            let row = ("", "", Part, "", Some(class), B, "line", true);
            self.add(row, ParentEffect::Yes, &code, &name, &lift.support_code(n))?;
        }
        Ok(())
    }

    fn vehicles(&mut self, lift: &Lift) -> Result<()> {
        for n in 1..=lift.vehicles {
            let (code, name) = (lift.vehicle_code(n), format!("{} {n}", lift.vehicle));
            let row = ("", "", Equipment, "", Some("vehicle"), C, "line", false);
            self.add(row, ParentEffect::No, &code, &name, &lift.at("VEH"))?;
            let part = |class, crew| ("", "", Part, "", Some(class), B, crew, true);
            let small = lift.vehicle.to_lowercase();
            if lift.has_grips {
                let name = format!("Grip of {small} {n}");
                self.add(part("grip", "line"), ParentEffect::Yes, &lift.grip_code(n), &name, &code)?;
            }
            if lift.vehicle == "Cabin" {
                let name = format!("Door of {small} {n}");
                self.add(part("vehicle", "line"), ParentEffect::Yes, &format!("{code}-DOR"), &name, &code)?;
            }
            if !lift.has_grips {
                for (suffix, what, class, crew) in [
                    ("RUN", "Running gear", "vehicle", "line"),
                    ("BRK", "Track brake", "brakes", "mech"),
                    ("DOR", "Doors", "vehicle", "line"),
                    ("BAT", "Battery", "controls", "elec"),
                    ("RAD", "Radio link", "controls", "elec"),
                ] {
                    let name = format!("{what} of {small} {n}");
                    self.add(part(class, crew), ParentEffect::Yes, &format!("{code}-{suffix}"), &name, &code)?;
                }
            }
        }
        Ok(())
    }

    fn motor(&mut self, lift: &Lift) -> Result<()> {
        let item = ("", "", Part, "", Some("motor"), A, "elec", true);
        let (motor, place) = (lift.motor, lift.at("DRV-MOT"));
        self.add(item, ParentEffect::Yes, motor, &format!("Motor {}", motor.trim_start_matches("MOT-")), &place)?;
        let bearing = ("", "", Part, "", Some("bearing"), B, "mech", true);
        for (suffix, name) in [("BDE", "Drive-end bearing"), ("BNE", "Non-drive-end bearing")] {
            self.add(bearing, ParentEffect::Yes, &format!("{motor}-{suffix}"), name, motor)?;
        }
        Ok(())
    }
}

/// Adds the tree of the given lifts.
pub fn add(tx: &mut Tx, lifts: &[Lift], since: Instant) -> Result<()> {
    let mut adding = Adding { tx, since };
    adding.row(("OMB", "Ombersett Ropeways", Site, "", None, A, "mech", false), "")?;
    for lift in lifts {
        let unit = ("", "", Unit, "", None, A, "mech", false);
        adding.add(unit, ParentEffect::No, lift.code, lift.name, "OMB")?;
        for row in STATIONS {
            adding.row(*row, lift.code)?;
        }
        adding.motor(lift)?;
        adding.line(lift)?;
        adding.vehicles(lift)?;
    }
    for row in WORKSHOP.iter().filter(|_| lifts.len() > 1) {
        adding.row(*row, "")?;
    }
    for lift in lifts {
        value(adding.tx, lift)?;
    }
    Ok(())
}

/// What a lift would cost anew, and an hour without it.
fn value(tx: &mut Tx, lift: &Lift) -> Result<()> {
    use tally_store::plant::master::{Given, GivenRow, Kind, take};
    let columns = ["code", "replacement_value", "downtime_cost"].map(String::from);
    let amount = |minor: i64| format!("{}.{:02}", minor / 100, minor % 100);
    let cells = vec![lift.code.into(), amount(lift.replacement_value), amount(lift.downtime_cost)];
    let rows = [GivenRow { line: 1, cells: Ok(cells), was: vec![] }];
    let decimal = tally_core::outside::files::Decimal::Point;
    let given = Given { columns: &columns, rows, decimal, zone: None, source: "the asset register" };
    take(tx, Kind::Assets, given, &mut |_, _| true).map(|_| ())
}

/// What may be spent in this and the four fiscal years before, each a little less than the one after it.
pub fn budgets(tx: &mut Tx, lifts: &[Lift], today: Date) -> Result<()> {
    for lift in lifts {
        for back in 0..5i16 {
            let amount = lift.budget - i64::from(back) * lift.budget / 40;
            values::set(
                tx,
                &NewValue {
                    kind: ValueKind::Budget,
                    of: lift.code.into(),
                    from: Date::new(today.year() - back, 1, 1).unwrap_or(today),
                    value: Some((amount / 10_000 * 10_000) as f64),
                },
            )?;
        }
    }
    Ok(())
}

/// What must be permitted or isolated before work on a system of a lift begins, and on all that is in it.
const PERMITS: &[(&str, &str)] = &[
    ("DRV", "Drive locked out and tagged | Rescue drive disconnected"),
    ("TEN", "Rope tension secured | Line without pressure"),
    ("LIN", "Rope stands, radio check with the drive station"),
];

/// Writes them to the assets.
pub fn permits(tx: &mut Tx, lifts: &[Lift]) -> Result<()> {
    let of = |lift: &Lift| {
        PERMITS.iter().map(|(suffix, permits)| vec![lift.at(suffix), (*permits).to_owned()]).collect::<Vec<_>>()
    };
    table::take(tx, Kind::Assets, &["code", "permits"], lifts.iter().flat_map(of).collect())
}

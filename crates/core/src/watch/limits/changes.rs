//! What differs between two versions of a ladder, rung by rung.

use super::{Ladder, RaiseIntervalOf, Rung, RungOn, RungSide};
use crate::{
    ground::{severity::Severity, units},
    watch::meters::Meter,
};
use serde::Serialize;
use serde_json::Value;

/// One thing that differs.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LadderChange {
    /// The rung as it is called, or `ladder`.
    pub subject: String,
    /// What of it; none where the whole rung is new or gone.
    pub field: Option<String>,
    /// Empty where there was nothing.
    pub from: String,
    /// Empty where there is nothing any more.
    pub to: String,
}

fn key(rung: &Rung) -> (RungSide, RungOn, Severity) {
    (rung.side, rung.on(), rung.severity)
}

/// A rung in short: `4 g, left below 1.5 g`.
fn in_short(rung: &Rung, meter: &Meter) -> String {
    match (rung.setpoint, rung.clears_at()) {
        (Some(setpoint), Some(clears)) if clears != setpoint => {
            let way = if rung.side == RungSide::Low { "above" } else { "below" };
            format!("{}, left {way} {}", meter.shown(setpoint), meter.shown(clears))
        }
        (Some(setpoint), _) => meter.shown(setpoint),
        (None, _) => rung.grades.join(", "),
    }
}

/// Fields of a rung as texts, those of its response with a dot.
fn fields(rung: &Rung) -> Vec<(String, String)> {
    fn text(value: &Value) -> String {
        match value {
            Value::String(text) => text.clone(),
            Value::Array(items) => items.iter().map(text).collect::<Vec<_>>().join(", "),
            Value::Number(number) => number.as_f64().map_or_else(|| number.to_string(), units::number),
            other => other.to_string(),
        }
    }
    let mut all = Vec::new();
    if let Ok(Value::Object(of_rung)) = serde_json::to_value(rung) {
        for (name, value) in of_rung {
            match value {
                Value::Object(of_response) => {
                    all.extend(of_response.iter().map(|(inner, value)| (format!("{name}.{inner}"), text(value))));
                }
                value => all.push((name, text(&value))),
            }
        }
    }
    all
}

/// What differs from `before` to `after`: rungs that are gone, then rungs changed field by field or new, then what holds
/// for the whole ladder.
#[must_use]
pub fn changes(before: &Ladder, after: &Ladder, meter: &Meter) -> Vec<LadderChange> {
    let find = |ladder: &Ladder, wanted: &Rung| ladder.rungs.iter().find(|rung| key(rung) == key(wanted)).cloned();
    let gone = before.rungs.iter().filter(|rung| find(after, rung).is_none()).map(|rung| LadderChange {
        subject: rung.name(),
        field: None,
        from: in_short(rung, meter),
        to: String::new(),
    });
    let mut all: Vec<LadderChange> = gone.collect();
    for rung in &after.rungs {
        let Some(was) = find(before, rung) else {
            let to = in_short(rung, meter);
            all.push(LadderChange { subject: rung.name(), field: None, from: String::new(), to });
            continue;
        };
        let (was, is) = (fields(&was), fields(rung));
        let value = |of: &[(String, String)], name: &str| {
            of.iter().find(|(field, _)| field == name).map_or_else(String::new, |(_, value)| value.clone())
        };
        let mut names: Vec<&String> = was.iter().chain(&is).map(|(name, _)| name).collect();
        names.sort();
        names.dedup();
        for name in names {
            let (from, to) = (value(&was, name), value(&is, name));
            if from != to {
                all.push(LadderChange { subject: rung.name(), field: Some(name.clone()), from, to });
            }
        }
    }
    all.extend(of_ladder(before, after));
    all
}

fn of_ladder(before: &Ladder, after: &Ladder) -> Vec<LadderChange> {
    let told = |ladder: &Ladder| {
        let of = match ladder.raise_interval_of {
            RaiseIntervalOf::Ladder => "ladder",
            RaiseIntervalOf::Asset => "asset",
        };
        let suspended = ladder.suspended_while.as_ref();
        [
            ("raise_interval_seconds", ladder.raise_interval_seconds.to_string()),
            ("raise_interval_of", of.to_string()),
            ("separate_work", ladder.separate_work.to_string()),
            (
                "suspended_while",
                suspended.map_or_else(String::new, |s| format!("{} below {}", s.meter, units::number(s.below))),
            ),
        ]
    };
    let differing = told(before).into_iter().zip(told(after)).filter(|(was, is)| was.1 != is.1);
    differing
        .map(|((field, from), (_, to))| LadderChange { subject: "ladder".into(), field: Some(field.into()), from, to })
        .collect()
}

/// Whether a danger rung is new, gone or different, or is suspended otherwise: what a second engineer looks at.
#[must_use]
pub fn touches_danger(before: &Ladder, after: &Ladder) -> bool {
    let danger = |ladder: &Ladder| {
        let of = ladder.rungs.iter().filter(|rung| rung.severity == Severity::Danger);
        let mut rungs: Vec<Rung> = of.cloned().collect();
        rungs.sort_by_key(key);
        rungs
    };
    let (was, is) = (danger(before), danger(after));
    was != is || (!is.is_empty() && before.suspended_while != after.suspended_while)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::watch::limits::{Response, WorkTemplate, ladder::tests::rung};

    fn of(rungs: Vec<Rung>) -> Ladder {
        Ladder { rungs, ..Ladder::default() }
    }

    #[test]
    fn what_differs_is_told_rung_by_rung() {
        let before = of(vec![
            rung(RungSide::High, Severity::Alert, 4.0, 1.0),
            rung(RungSide::High, Severity::Danger, 15.0, 0.0),
        ]);
        let mut after = of(vec![
            rung(RungSide::High, Severity::Alert, 6.0, 1.0),
            rung(RungSide::High, Severity::Serious, 9.0, 2.0),
        ]);
        let mechanics = WorkTemplate { crew: Some("MECH".into()), ..WorkTemplate::default() };
        after.rungs[0].response = Response::raise(mechanics);
        after.raise_interval_seconds = 86_400;
        let told: Vec<String> = changes(&before, &after, &Meter::measurement("[g]"))
            .into_iter()
            .map(|c| format!("{} {}: {} → {}", c.subject, c.field.unwrap_or_default(), c.from, c.to))
            .collect();
        assert_eq!(
            told,
            [
                "danger high : 15 g → ",
                "alert high response.crew:  → MECH",
                "alert high setpoint: 4 → 6",
                "serious high :  → 9 g, left below 7 g",
                "ladder raise_interval_seconds: 0 → 86400",
            ]
        );
        assert!(touches_danger(&before, &after));
        assert!(!touches_danger(&after, &of(vec![])), "no danger rung in either");
        let suspended = |ladder: &Ladder| Ladder {
            suspended_while: Some(crate::watch::limits::Suspension { meter: "RPM".into(), below: 10.0 }),
            ..ladder.clone()
        };
        assert!(touches_danger(&before, &suspended(&before)), "its danger rung would look away");
        assert!(!touches_danger(&after, &suspended(&after)));
        assert!(changes(&after, &after, &Meter::measurement("[g]")).is_empty());
    }
}

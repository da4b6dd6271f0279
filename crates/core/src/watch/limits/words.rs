//! How a limit that was reached is said in words, in the work it raises and wherever it is shown.

use super::{Response, Rung, RungSide, Watched};
use crate::watch::meters::Meter;

/// What was found, against the rung it reached: `96 bar, below 110 bar`. For a rung on a derived series, `value` is what
/// the rung looked at.
#[must_use]
pub fn found(meter: &Meter, rung: &Rung, value: f64) -> String {
    match rung.watched {
        Watched::Value => against(meter, rung, value),
        Watched::Rate { .. } => format!("changing by {} an hour", against(meter, rung, value)),
        Watched::Change { baseline } => {
            let from = meter.shown(baseline);
            format!("changed from {from} by {}", against(meter, rung, value))
        }
    }
}

fn against(meter: &Meter, rung: &Rung, value: f64) -> String {
    let reading = meter.shown(value);
    match (rung.side, rung.setpoint) {
        (RungSide::Grade, _) | (_, None) => format!("{reading}, which is {}", rung.severity),
        (_, Some(setpoint)) => {
            let limit = meter.shown(setpoint);
            if value == setpoint {
                format!("{reading}, at the limit of {limit}")
            } else if value > setpoint {
                format!("{reading}, above {limit}")
            } else {
                format!("{reading}, below {limit}")
            }
        }
    }
}

/// The names a template may use.
#[derive(Debug, Clone, Copy)]
pub struct Names<'a> {
    pub meter: &'a str,
    pub asset: &'a str,
}

/// Title and text of the work that a rung raises. The text always ends in what was found: `looked_at` is the reading's
/// value, or its rate or change for a rung on those.
#[must_use]
pub fn work_words(meter: &Meter, rung: &Rung, value: f64, looked_at: f64, names: Names) -> (String, String) {
    let Response { title, text, .. } = &rung.response;
    let limit = rung.setpoint.map_or_else(|| rung.grades.join(", "), |setpoint| meter.shown(setpoint));
    let fill = |template: &str| {
        template
            .replace("{meter}", names.meter)
            .replace("{asset}", names.asset)
            .replace("{reading}", &meter.shown(value))
            .replace("{limit}", &limit)
    };
    let found = found(meter, rung, looked_at);
    let title = match title.as_deref().map(str::trim).filter(|t| !t.is_empty()) {
        Some(template) => fill(template),
        None => format!("{}: {} at {}", names.asset, names.meter, rung.severity),
    };
    let told = [text.as_deref(), rung.what_to_do.as_deref()];
    let mut parts: Vec<String> =
        told.into_iter().flatten().map(str::trim).filter(|t| !t.is_empty()).map(fill).collect();
    parts.push(format!("{}: {found}.", names.meter));
    (title, parts.join("\n"))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{ground::severity::Severity, watch::limits::ladder::tests::rung};

    #[test]
    fn the_text_ends_in_what_was_found() {
        let mut low = rung(RungSide::Low, Severity::Alert, 110.0, 5.0);
        low.response.title = Some("Top up {asset}".into());
        low.response.text = Some("Check for leaks.".into());
        let names = Names { meter: "Pressure", asset: "Tension unit" };
        let (title, text) = work_words(&Meter::measurement("bar"), &low, 96.0, 96.0, names);
        assert_eq!(title, "Top up Tension unit");
        assert_eq!(text, "Check for leaks.\nPressure: 96 bar, below 110 bar.");
    }

    #[test]
    fn without_a_template_the_title_names_asset_meter_and_severity() {
        let high = rung(RungSide::High, Severity::Serious, 9.0, 0.0);
        let names = Names { meter: "Peak acceleration", asset: "Gearbox" };
        let (title, text) = work_words(&Meter::measurement("[g]"), &high, 9.0, 9.0, names);
        assert_eq!(title, "Gearbox: Peak acceleration at serious");
        assert_eq!(text, "Peak acceleration: 9 g, at the limit of 9 g.");
    }

    #[test]
    fn a_rate_is_said_as_a_rate() {
        let rate =
            Rung { watched: Watched::Rate { over_seconds: None }, ..rung(RungSide::High, Severity::Alert, 0.5, 0.0) };
        assert_eq!(found(&Meter::measurement("bar"), &rate, 0.8), "changing by 0.8 bar, above 0.5 bar an hour");
    }
}

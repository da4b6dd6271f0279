//! Setpoints that a baseline speaks for: each with its count, its formula and its source.

use super::RungSide;
use crate::{
    ground::{severity::Severity, units::significant},
    stats::{
        charts::{self, MAD_SCALE},
        describe, tolerance, trend,
    },
};
use serde::{Deserialize, Serialize};

/// Fewer readings than this make a proposal doubtful. Common practice for control limits.
pub const FEW: usize = 30;

/// How a setpoint is proposed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Method {
    MeanSigma,
    MedianMad,
    Individuals,
    Ewma,
    Tolerance,
    Percentile,
    Vibration,
}

/// One number that went into a formula.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MethodInput {
    pub name: &'static str,
    pub value: f64,
}

/// A setpoint, and why.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Proposal {
    pub method: Method,
    pub side: RungSide,
    /// Where the method says so.
    pub severity: Option<Severity>,
    /// In the meter's unit.
    pub setpoint: f64,
    /// The same as a person would set it: with three significant digits.
    pub offered: f64,
    /// Readings of the baseline.
    pub n: usize,
    pub formula: String,
    pub source: &'static str,
    pub inputs: Vec<MethodInput>,
}

/// What speaks against trusting a baseline.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Warning {
    /// Few readings.
    Few { n: usize },
    /// Something failed in it.
    Failures { failures: usize },
    /// It drifts: the Mann–Kendall test says that this is hardly chance.
    Drift { p: f64, rises: bool },
}

/// Machines of ISO 20816-3 by size and foundation.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum MachineGroup {
    MediumRigid,
    MediumFlexible,
    LargeRigid,
    LargeFlexible,
}

impl MachineGroup {
    /// Zone boundaries A/B, B/C and C/D in mm/s r.m.s. Source: ISO 20816-3, from memory.
    #[must_use]
    pub fn boundaries(self) -> [f64; 3] {
        match self {
            Self::MediumRigid => [1.4, 2.8, 4.5],
            Self::MediumFlexible | Self::LargeRigid => [2.3, 4.5, 7.1],
            Self::LargeFlexible => [3.5, 7.1, 11.0],
        }
    }
}

/// What the engineer chooses.
#[derive(Debug, Clone, PartialEq)]
pub struct Choices {
    /// Standard deviations, or scaled deviations, from the middle.
    pub k: f64,
    /// Share of readings on the good side of a percentile.
    pub share: f64,
    /// Weight of the newest value in an EWMA.
    pub lambda: f64,
    /// For broad-band vibration velocity of machines of 120 r/min and more.
    pub machine: Option<MachineGroup>,
}

impl Default for Choices {
    /// Three sigma, 99.5 %, λ = 0.2 (common practice).
    fn default() -> Self {
        Self { k: 3.0, share: 0.995, lambda: 0.2, machine: None }
    }
}

/// Proposals of both sides from the values of a baseline in order of time; those that need more values are left out.
#[must_use]
pub fn propose(baseline: &[f64], choices: &Choices) -> Vec<Proposal> {
    let mut all = Vec::new();
    let (Some(mean), Some(sigma)) = (describe::mean(baseline), describe::standard_deviation(baseline)) else {
        return all;
    };
    let n = baseline.len();
    let (k, lambda) = (choices.k, choices.lambda);
    let input = |name, value| MethodInput { name, value };
    let mut both = |method, middle: f64, width: f64, formula: &str, source, inputs: Vec<MethodInput>| {
        for (side, setpoint, sign) in [(RungSide::High, middle + width, '+'), (RungSide::Low, middle - width, '−')] {
            let formula = formula.replace('±', &sign.to_string());
            let inputs = inputs.clone();
            all.push(Proposal {
                method,
                side,
                severity: None,
                setpoint,
                offered: offered(setpoint),
                n,
                formula,
                source,
                inputs,
            });
        }
    };
    both(
        Method::MeanSigma,
        mean,
        k * sigma,
        "mean ± k · s",
        "Shewhart limits, common practice",
        vec![input("mean", mean), input("s", sigma), input("k", k)],
    );
    if let Some(robust) = charts::robust(baseline, k) {
        both(
            Method::MedianMad,
            robust.median,
            k * MAD_SCALE * robust.deviation,
            "median ± k · 1.4826 · MAD",
            "robust limits, common practice",
            vec![input("median", robust.median), input("MAD", robust.deviation), input("k", k)],
        );
    }
    if let Some(chart) = charts::individuals(baseline) {
        both(
            Method::Individuals,
            chart.center,
            charts::INDIVIDUALS_WIDTH * chart.mean_range,
            "mean ± 2.66 · mean moving range",
            "individuals chart, NIST/SEMATECH e-Handbook 6.3.2.2",
            vec![input("mean", chart.center), input("mean moving range", chart.mean_range)],
        );
    }
    both(
        Method::Ewma,
        mean,
        charts::ewma_width(sigma, lambda, k, None),
        "mean ± k · s · √(λ / (2 − λ)), for a meter read as a moving average",
        "EWMA chart, NIST/SEMATECH e-Handbook 6.3.2.4",
        vec![input("mean", mean), input("s", sigma), input("k", k), input("λ", lambda)],
    );
    if let Some(factor) = tolerance::tolerance_factor(n, 0.95, 0.95) {
        both(
            Method::Tolerance,
            mean,
            factor * sigma,
            "mean ± k₁ · s, 95 % of values with 95 % confidence",
            "one-sided normal tolerance limit, NIST/SEMATECH e-Handbook 7.2.6.3",
            vec![input("mean", mean), input("s", sigma), input("k₁", factor)],
        );
    }
    percentiles(baseline, choices.share, &mut all);
    if let Some(machine) = choices.machine {
        vibration(baseline, machine, &mut all);
    }
    all
}

fn percentiles(baseline: &[f64], share: f64, all: &mut Vec<Proposal>) {
    let mut sorted = baseline.to_vec();
    sorted.sort_unstable_by(f64::total_cmp);
    for (side, at) in [(RungSide::High, share), (RungSide::Low, 1.0 - share)] {
        let Some(setpoint) = describe::quantile(&sorted, at) else { continue };
        all.push(Proposal {
            method: Method::Percentile,
            side,
            severity: None,
            setpoint,
            offered: offered(setpoint),
            n: baseline.len(),
            formula: format!(
                "{} % of the readings lie below",
                crate::ground::units::number((at * 1_000.0).round() / 10.0)
            ),
            source: "percentile, interpolated (type 7 of Hyndman and Fan)",
            inputs: vec![MethodInput { name: "share", value: at }],
        });
    }
}

fn offered(setpoint: f64) -> f64 {
    significant(setpoint, 3)
}

/// Alert at baseline + 25 % of the B/C boundary, at most 1.25 times it; danger at 1.25 times the C/D boundary.
fn vibration(baseline: &[f64], machine: MachineGroup, all: &mut Vec<Proposal>) {
    let Some(usual) = describe::median(baseline) else { return };
    let [_, to_c, to_d] = machine.boundaries();
    let source = "ISO 20816-3 (from memory), for machines of 120 r/min and more";
    let (first, second) = ((usual + 0.25 * to_c).min(1.25 * to_c), 1.25 * to_d);
    let alert = Proposal {
        method: Method::Vibration,
        side: RungSide::High,
        severity: Some(Severity::Alert),
        setpoint: first,
        offered: offered(first),
        n: baseline.len(),
        formula: "baseline + 25 % of the zone B/C boundary, at most 1.25 times it".into(),
        source,
        inputs: vec![MethodInput { name: "baseline (median)", value: usual }, MethodInput { name: "B/C", value: to_c }],
    };
    let danger = Proposal {
        severity: Some(Severity::Danger),
        setpoint: second,
        offered: offered(second),
        formula: "at most 1.25 times the zone C/D boundary".into(),
        inputs: vec![MethodInput { name: "C/D", value: to_d }],
        ..alert.clone()
    };
    all.extend([alert, danger]);
}

/// How many points a trend test looks at, at the most: it compares all pairs.
pub const MOST_TESTED: usize = 500;

/// What speaks against trusting the baseline; `failures` is how many the meter's asset had in it.
#[must_use]
pub fn warnings(baseline: &[f64], failures: usize) -> Vec<Warning> {
    let mut all = Vec::new();
    if baseline.len() < FEW {
        all.push(Warning::Few { n: baseline.len() });
    }
    if failures > 0 {
        all.push(Warning::Failures { failures });
    }
    let tested = thinned(baseline, MOST_TESTED);
    if let Some(test) = trend::mann_kendall(&tested).filter(|test| test.p < 0.05) {
        all.push(Warning::Drift { p: test.p, rises: test.s > 0 });
    }
    all
}

/// At most `most` medians of equal parts, in the same order.
#[must_use]
pub fn thinned(values: &[f64], most: usize) -> Vec<f64> {
    if values.len() <= most {
        return values.to_vec();
    }
    (0..most)
        .filter_map(|part| describe::median(&values[part * values.len() / most..(part + 1) * values.len() / most]))
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn of(all: &[Proposal], method: Method, side: RungSide) -> &Proposal {
        all.iter().find(|one| one.method == method && one.side == side).unwrap()
    }

    /// Flow rates of the NIST/SEMATECH e-Handbook 6.3.2.2 (from memory): mean 50.81, mean moving range 1.8778; limits
    /// with 2.66 are 55.805 and 45.815. s = 1.878 recomputed from the ten values; k₁ for n = 10 is 2.911 as printed.
    #[test]
    fn proposals_from_the_handbooks_flow_rates() {
        let flow = [49.6, 47.6, 49.9, 51.3, 47.8, 51.2, 52.6, 52.4, 53.6, 52.1];
        let all = propose(&flow, &Choices::default());
        let near = |method, side, expected: f64| {
            let setpoint = of(&all, method, side).setpoint;
            assert!((setpoint - expected).abs() < 2e-3, "{method:?} {side:?}: {setpoint}");
        };
        near(Method::Individuals, RungSide::High, 55.805);
        near(Method::Individuals, RungSide::Low, 45.815);
        let s = describe::standard_deviation(&flow).unwrap();
        near(Method::MeanSigma, RungSide::High, 50.81 + 3.0 * s);
        near(Method::Tolerance, RungSide::High, 50.81 + 2.911 * s);
        // λ = 0.2: √(0.2 / 1.8) is a third.
        near(Method::Ewma, RungSide::Low, 50.81 - s);
        assert_eq!(of(&all, Method::MeanSigma, RungSide::Low).formula, "mean − k · s");
        assert!(all.iter().all(|one| one.n == 10 && !one.source.is_empty()));
    }

    /// ISO 20816-3 from memory: a large machine on a rigid foundation has B/C at 4.5 and C/D at 7.1 mm/s.
    #[test]
    fn vibration_limits_follow_the_zones() {
        let proposed = |usual: f64| {
            let choices = Choices { machine: Some(MachineGroup::LargeRigid), ..Choices::default() };
            let all = propose(&[usual; 40], &choices);
            let of: Vec<f64> = all.iter().filter(|p| p.method == Method::Vibration).map(|p| p.setpoint).collect();
            of
        };
        assert_eq!(proposed(2.0), [2.0 + 1.125, 8.875]);
        assert_eq!(proposed(6.0), [5.625, 8.875], "never above 1.25 times the boundary");
    }

    /// Zone boundaries A/B, B/C and C/D of ISO 20816-3 in mm/s r.m.s., from memory; a baseline of 1 mm/s.
    #[rstest]
    #[case::medium_rigid(MachineGroup::MediumRigid, [1.4, 2.8, 4.5])]
    #[case::medium_flexible(MachineGroup::MediumFlexible, [2.3, 4.5, 7.1])]
    #[case::large_rigid(MachineGroup::LargeRigid, [2.3, 4.5, 7.1])]
    #[case::large_flexible(MachineGroup::LargeFlexible, [3.5, 7.1, 11.0])]
    fn every_machine_group_has_its_zones(#[case] machine: MachineGroup, #[case] zones: [f64; 3]) {
        assert_eq!(machine.boundaries(), zones);
        let all = propose(&[1.0; 40], &Choices { machine: Some(machine), ..Choices::default() });
        let vibration: Vec<_> = all.iter().filter(|p| p.method == Method::Vibration).collect();
        let expected = [(Severity::Alert, 1.0 + 0.25 * zones[1]), (Severity::Danger, 1.25 * zones[2])];
        assert_eq!(vibration.iter().map(|p| (p.severity.unwrap(), p.setpoint)).collect::<Vec<_>>(), expected);
        assert!(vibration.iter().all(|p| p.side == RungSide::High && p.source.contains("120 r/min and more")));
    }

    #[test]
    fn a_doubtful_baseline_is_warned_of() {
        let drifting: Vec<f64> = (0..40).map(f64::from).collect();
        assert!(matches!(warnings(&drifting, 0)[..], [Warning::Drift { rises: true, .. }]));
        let steady = [3.0, 1.0, 2.0, 3.0, 1.0, 2.0];
        assert_eq!(warnings(&steady, 2), [Warning::Few { n: 6 }, Warning::Failures { failures: 2 }]);
        assert!(propose(&[1.0], &Choices::default()).is_empty());
    }

    #[test]
    fn thinning_keeps_the_order_and_the_level() {
        let values: Vec<f64> = (0..10_000).map(f64::from).collect();
        let thin = thinned(&values, 500);
        assert_eq!((thin.len(), thin[0], thin[499]), (500, 9.5, 9_989.5));
    }
}

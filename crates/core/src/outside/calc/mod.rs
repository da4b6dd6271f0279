//! Cases from outside: the rules run over a file of inputs, so that anyone can check them with cases of their own.
//!
//! A file is `{"cases":[{"id","input"}]}`; the answer is `{"cases":[{"id","output"}]}`.

mod calendar;

pub use calendar::calendar;

use crate::{
    ground::{
        calendar::{Calendar, WeeklyHours},
        spans::{intersection, total_ms, union},
        time::{Instant, SECOND, Span},
    },
    stats::{charts, events, tolerance, trend},
    watch::{
        limits::{Change, Machine, RungSide, machine::PlainLevel},
        readings::Reading,
    },
};
use serde::Deserialize;
use serde_json::{Value, json};

/// A file that can't be worked through, or a case in it.
#[derive(Debug, thiserror::Error)]
pub enum CalcError {
    #[error("no JSON of the form {{\"cases\":[{{\"id\",\"input\"}}]}}: {0}")]
    File(#[source] serde_json::Error),
    #[error("case {id}: {reason}")]
    Case { id: String, reason: String },
}

#[derive(Deserialize)]
struct File {
    cases: Vec<Case>,
}

#[derive(Deserialize)]
struct Case {
    id: Value,
    input: Value,
}

/// Runs `one` over every case of a file.
///
/// # Errors
/// [`CalcError`] for text that is no such file, or the first case that makes no sense, by its id.
pub fn run(text: &str, one: fn(Value) -> Result<Value, String>) -> Result<Value, CalcError> {
    let file: File = serde_json::from_str(text).map_err(CalcError::File)?;
    let answers = file.cases.into_iter().map(|case| {
        let id = case.id.as_str().map_or_else(|| case.id.to_string(), String::from);
        let output = one(case.input).map_err(|reason| CalcError::Case { id, reason })?;
        Ok(json!({ "id": case.id, "output": output }))
    });
    Ok(json!({ "cases": answers.collect::<Result<Vec<Value>, CalcError>>()? }))
}

#[derive(Deserialize)]
struct LimitsInput {
    levels: Vec<LevelInput>,
    readings: Vec<(f64, Option<f64>)>,
}

#[derive(Deserialize)]
struct LevelInput {
    side: RungSide,
    level: u32,
    setpoint: f64,
    #[serde(default)]
    deadband: f64,
    #[serde(default)]
    on_delay: f64,
    #[serde(default)]
    off_delay: f64,
}

fn ms(seconds: f64) -> i64 {
    (seconds * SECOND as f64).round() as i64
}

fn seconds(at: Instant) -> Value {
    if at.ms() % SECOND == 0 { json!(at.ms() / SECOND) } else { json!(at.ms() as f64 / SECOND as f64) }
}

/// Limit evaluation of plain levels: `{levels, readings}` in, `{events, active_at_end,
/// highest_level_after_each_reading}` out.
///
/// # Errors
/// What is wrong with the input, in words.
pub fn limits(input: Value) -> Result<Value, String> {
    let input: LimitsInput = serde_json::from_value(input).map_err(|error| error.to_string())?;
    let levels: Vec<PlainLevel> = input
        .levels
        .iter()
        .map(|level| PlainLevel {
            side: level.side,
            level: level.level,
            setpoint: level.setpoint,
            deadband: level.deadband,
            on_delay_ms: ms(level.on_delay),
            off_delay_ms: ms(level.off_delay),
        })
        .collect();
    let machine = Machine::of_levels(&levels);
    let mut states = machine.at_rest();
    let (mut events, mut high, mut low) = (Vec::new(), Vec::new(), Vec::new());
    let mut last = None;
    for (time, value) in input.readings {
        let at = Instant::from_ms(ms(time));
        if last.is_some_and(|last| at <= last) {
            return Err(format!("the reading at {time} s does not come after the one before it"));
        }
        last = Some(at);
        let mut changed = Vec::new();
        if let Some(value) = value {
            machine.step(&mut states, Reading { at, value }, &mut changed);
        }
        for transition in changed {
            let level = &levels[transition.rung];
            let word = if transition.change == Change::Entered { "entered" } else { "left" };
            events.push(json!([seconds(at), level.side, level.level, word]));
        }
        high.push(machine.worst_level(&states, RungSide::High));
        low.push(machine.worst_level(&states, RungSide::Low));
    }
    let active = levels.iter().zip(&states).filter(|(_, state)| state.entered);
    Ok(json!({
        "events": events,
        "active_at_end": active.map(|(level, _)| json!([level.side, level.level])).collect::<Vec<_>>(),
        "highest_level_after_each_reading": { "high": high, "low": low },
    }))
}

#[derive(Deserialize)]
struct DowntimeInput {
    period: (Instant, Instant),
    time_zone: String,
    calendar: Vec<WindowInput>,
    downtimes: Vec<(Instant, Option<Instant>)>,
}

#[derive(Deserialize)]
struct WindowInput {
    weekday: u8,
    start: String,
    end: String,
}

fn minute(clock: &str) -> Result<u16, String> {
    let wrong = || format!("{clock:?} is no local time such as 08:30");
    let (hours, minutes) = clock.split_once(':').ok_or_else(wrong)?;
    let number = |text: &str| text.parse::<u16>().map_err(|_not_a_number| wrong());
    let minute = number(hours)? * 60 + number(minutes)?;
    if minute <= 1440 { Ok(minute) } else { Err(wrong()) }
}

/// Downtime of one asset in a period and a weekly calendar: keys as in the reference set's description.
///
/// # Errors
/// What is wrong with the input, in words.
pub fn downtime(input: Value) -> Result<Value, String> {
    let input: DowntimeInput = serde_json::from_value(input).map_err(|error| error.to_string())?;
    let period = Span::new(input.period.0, input.period.1).map_err(|error| error.to_string())?;
    let hours = input.calendar.iter().map(|window| {
        Ok(WeeklyHours {
            weekday: window.weekday,
            from_minute: minute(&window.start)?,
            to_minute: minute(&window.end)?,
        })
    });
    let calendar = Calendar {
        time_zone: input.time_zone,
        hours: hours.collect::<Result<_, String>>()?,
        seasons: vec![],
        closed: vec![],
    };
    calendar.check().map_err(|error| error.to_string())?;
    let operating = calendar.operating(period).map_err(|error| error.to_string())?;
    let spans = input.downtimes.iter().filter_map(|(start, end)| {
        Span::new(*start, end.unwrap_or(period.end())).ok().and_then(|span| span.clip(period))
    });
    let down = union(spans.collect());
    let in_operating = intersection(&down, &operating);
    let (operating_s, down_s) = (total_ms(&operating) / SECOND, total_ms(&in_operating) / SECOND);
    Ok(json!({
        "period_seconds": period.ms() / SECOND,
        "operating_seconds": operating_s,
        "down_seconds_any_time": total_ms(&down) / SECOND,
        "down_seconds": down_s,
        "merged_downtimes_in_period": down.len(),
        "down_stretches_in_operating_time": in_operating.len(),
        "availability": (operating_s > 0).then(|| 1.0 - down_s as f64 / operating_s as f64),
        "down_in_operating_time": in_operating.iter().map(|s| json!([s.start(), s.end()])).collect::<Vec<_>>(),
    }))
}
#[derive(Deserialize)]
#[serde(untagged, deny_unknown_fields)]
enum ChartInput {
    Tolerance {
        n: usize,
        coverage: f64,
        confidence: f64,
    },
    Ewma {
        y: Vec<f64>,
        target: f64,
        sigma: f64,
        lambda: f64,
        #[serde(rename = "L")]
        width: f64,
    },
    Cusum {
        y: Vec<f64>,
        target: f64,
        sigma: f64,
        k: f64,
        h: f64,
    },
    Robust {
        y: Vec<f64>,
        baseline_n: usize,
        k: f64,
    },
    Individuals {
        y: Vec<f64>,
        baseline_n: usize,
    },
    ChangePoint {
        y: Vec<f64>,
    },
}

fn too_few<T>(answer: Option<T>) -> Result<T, String> {
    answer.ok_or_else(|| "there are too few values".into())
}

fn baseline(y: &[f64], n: usize) -> Result<&[f64], String> {
    y.get(..n).ok_or_else(|| format!("baseline_n is {n}, but there are {} values", y.len()))
}

/// Indices of the values strictly outside two limits.
fn beyond(y: &[f64], limits: impl Fn(usize) -> (f64, f64)) -> Vec<usize> {
    let outside = |index: &usize| {
        let (lower, upper) = limits(*index);
        y[*index] < lower || y[*index] > upper
    };
    (0..y.len()).filter(outside).collect()
}

/// Control charts, change detection and tolerance factors; which one follows from the fields of the input: `{n, coverage,
/// confidence}`, `{y, target, sigma, lambda, L}`, `{y, target, sigma, k, h}`, `{y, baseline_n, k}`, `{y, baseline_n}` or
/// `{y}`.
///
/// # Errors
/// What is wrong with the input, in words.
pub fn charts(input: Value) -> Result<Value, String> {
    let input: ChartInput = serde_json::from_value(input)
        .map_err(|_untold| "the fields are those of no chart: see the help of this command".to_string())?;
    Ok(match input {
        ChartInput::Tolerance { n, coverage, confidence } => {
            json!({ "k": too_few(tolerance::tolerance_factor(n, coverage, confidence))? })
        }
        ChartInput::Ewma { y, target, sigma, lambda, width } => {
            let z = charts::ewma(&y, target, lambda);
            let away = |n| charts::ewma_width(sigma, lambda, width, n);
            let (asymptotic, at) = (away(None), |i: usize| away(Some(i + 1)));
            json!({
                "ucl": (0..y.len()).map(|i| target + at(i)).collect::<Vec<_>>(),
                "lcl": (0..y.len()).map(|i| target - at(i)).collect::<Vec<_>>(),
                "ucl_asymptotic": target + asymptotic,
                "lcl_asymptotic": target - asymptotic,
                "beyond": beyond(&z, |i| (target - at(i), target + at(i))),
                "beyond_asymptotic": beyond(&z, |_| (target - asymptotic, target + asymptotic)),
                "z": z,
            })
        }
        ChartInput::Cusum { y, target, sigma, k, h } => {
            let sums = charts::cusum(&y, target, sigma, k, h);
            let above = |sum: &[f64]| (0..sum.len()).filter(|i| sum[*i] > h).collect::<Vec<_>>();
            let side = |high: &bool| if *high { "high" } else { "low" };
            json!({
                "signals_high": above(&sums.high),
                "signals_low": above(&sums.low),
                "signals_with_restart": sums.signals.iter().map(|(i, high)| json!([i, side(high)])).collect::<Vec<_>>(),
                "c_plus": sums.high,
                "c_minus": sums.low,
            })
        }
        ChartInput::Robust { y, baseline_n, k } => {
            let chart = too_few(charts::robust(baseline(&y, baseline_n)?, k))?;
            json!({
                "k": k,
                "median": chart.median,
                "mad": chart.deviation,
                "upper": chart.upper,
                "lower": chart.lower,
                "beyond": beyond(&y, |_| (chart.lower, chart.upper)),
                "baseline_n": baseline_n,
            })
        }
        ChartInput::Individuals { y, baseline_n } => {
            let chart = too_few(charts::individuals(baseline(&y, baseline_n)?))?;
            json!({
                "baseline_n": baseline_n,
                "center": chart.center,
                "mr_bar": chart.mean_range,
                "ucl": chart.upper,
                "lcl": chart.lower,
                "sigma_d2": chart.sigma,
                "mr_ucl": chart.range_upper,
                "beyond": beyond(&y, |_| (chart.lower, chart.upper)),
            })
        }
        ChartInput::ChangePoint { y } => {
            let split = too_few(charts::change_point(&y))?;
            json!({
                "first_index_of_second_segment": split.first,
                "sse": split.squares,
                "mean_before": split.mean_before,
                "mean_after": split.mean_after,
                "sse_no_change": split.squares_without,
            })
        }
    })
}

#[derive(Deserialize)]
#[serde(untagged, deny_unknown_fields)]
enum TrendInput {
    Series { x: Vec<f64>, y: Vec<f64> },
    Events { systems: Vec<SystemInput> },
}

#[derive(Deserialize)]
struct SystemInput {
    events: Vec<f64>,
    end: f64,
    #[serde(default)]
    termination: Option<String>,
}

/// Trends: `{x, y}` gives Mann–Kendall and Theil–Sen, `{systems: [{events, end, termination}]}` Laplace and MIL-HDBK-189.
///
/// # Errors
/// What is wrong with the input, in words.
pub fn trend(input: Value) -> Result<Value, String> {
    let input: TrendInput = serde_json::from_value(input)
        .map_err(|_untold| "a trend is taken of {x, y} or of {systems: [{events, end, termination}]}".to_string())?;
    match input {
        TrendInput::Series { x, y } => {
            if x.len() != y.len() {
                return Err(format!("there are {} x and {} y", x.len(), y.len()));
            }
            let points: Vec<(f64, f64)> = x.iter().copied().zip(y.iter().copied()).collect();
            let line = too_few(trend::theil_sen(&points, None))?;
            // z of a two-sided 90 % interval.
            let narrow = too_few(trend::theil_sen(&points, Some(1.644_853_626_951_472)))?;
            let test = too_few(trend::mann_kendall(&y))?;
            let tied = x.windows(2).any(|pair| pair[0] == pair[1]);
            Ok(json!({
                "mann_kendall": (!tied).then(|| json!({
                    "n": test.n, "S": test.s, "var_S": test.variance, "z": test.z, "p_two_sided": test.p,
                    "tau_a": test.tau_a,
                })),
                "theil_sen": {
                    "slope": line.slope, "intercept": line.intercept, "lower": line.lower, "upper": line.upper,
                    "n_slopes": line.slopes, "level": 0.95,
                },
                "theil_sen_90": { "lower": narrow.lower, "upper": narrow.upper },
            }))
        }
        TrendInput::Events { systems } => {
            let systems: Vec<events::System> = systems
                .into_iter()
                .map(|system| events::System {
                    ends_with_event: system.termination.as_deref() == Some("failure"),
                    events: system.events,
                    end: system.end,
                })
                .collect();
            let tests = too_few(events::event_trend(&systems))?;
            let told = |(both, increasing, decreasing): (f64, f64, f64)| json!({ "p_two_sided": both, "p_increasing": increasing, "p_decreasing": decreasing });
            let (mut laplace, mut handbook) = (told(tests.laplace_p()), told(tests.chi_squared_p()));
            laplace["u"] = json!(tests.laplace);
            handbook["chi2"] = json!(tests.chi_squared);
            handbook["dof"] = json!(2 * tests.events);
            Ok(json!({ "events_used": tests.events, "laplace": laplace, "mil_hdbk_189": handbook }))
        }
    }
}

//! Cases from outside: the rules run over a file of inputs, so that anyone can check them with cases of their own.
//!
//! A file is `{"cases":[{"id","input"}]}`; the answer is `{"cases":[{"id","output"}]}`.

use crate::{
    calendar::{Calendar, WeeklyHours},
    downtime::{intersection, total_ms, union},
    limits::{Change, Machine, RungSide, machine::PlainLevel},
    readings::Reading,
    time::{Instant, SECOND, Span},
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

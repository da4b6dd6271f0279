//! Words: what the numbers of a column stand for.

use super::context::Context;
use crate::{
    facts::{Named, Names, Snapshot, packed::NONE},
    ground::{ids::AssetId, severity::Severity},
    plant::{
        assets::{Criticality, Level},
        downtime::DowntimeKind,
    },
    work::{SourceWord, Verdict, WaitingFor, WorkKind, WorkState, entries::EntryKind},
};
use serde::Serialize;
use std::collections::HashMap;

/// What the numbers of a column stand for.
#[derive(Debug)]
pub enum Dictionary<'a> {
    /// Each by its place, as it stands in the API.
    Words(Vec<String>),
    /// Each by its place, as it is called.
    Names(&'a [String]),
    /// By dense index of the tree.
    Assets(&'a Snapshot),
    /// By id. With their places in the order of names.
    Named(&'a [Named], HashMap<i64, i64>),
    YesNo,
    /// The numbers are what they are.
    Numbers,
}

fn words<T: Serialize>(all: impl IntoIterator<Item = T>) -> Dictionary<'static> {
    let word = |one: T| match serde_json::to_value(one) {
        Ok(serde_json::Value::String(word)) => word,
        other => unreachable!("words are written as strings, not {other:?}"),
    };
    Dictionary::Words(all.into_iter().map(word).collect())
}

fn named(all: &[Named]) -> Dictionary<'_> {
    let mut order: Vec<&Named> = all.iter().collect();
    order.sort_by(|a, b| (&a.name, a.id).cmp(&(&b.name, b.id)));
    Dictionary::Named(all, order.into_iter().zip(0i64..).map(|(one, rank)| (one.id, rank)).collect())
}

/// The dictionary of a column by its id, whatever the subject.
pub(super) fn dictionary<'a>(context: &Context<'a>, column: &str) -> Dictionary<'a> {
    use crate::codes::failures::Effect;
    let facts: &'a Snapshot = context.facts;
    let names: &'a Names = &facts.names;
    match column.strip_prefix("order_").unwrap_or(column) {
        "asset" | "site" | "unit" | "system" | "equipment" => Dictionary::Assets(facts),
        "class" => named(&names.classes),
        "crew" | "asset_crew" => named(&names.crews),
        "assignee" | "raised_by" | "person" => named(&names.people),
        "problem" | "cause" | "remedy" => named(&names.codes),
        "department" => Dictionary::Names(&names.departments),
        "criticality" => words([Criticality::A, Criticality::B, Criticality::C]),
        "level" => words([Level::Site, Level::Unit, Level::System, Level::Equipment, Level::Part]),
        "state" => words(WorkState::ALL),
        "source" => words([SourceWord::Person, SourceWord::Ladder]),
        "severity" => words(Severity::ALL),
        "waiting_for" => words([WaitingFor::Parts, WaitingFor::Outage, WaitingFor::People, WaitingFor::Other]),
        "verdict" => words([Verdict::FoundIt, Verdict::NothingWrong, Verdict::Other]),
        "effect" => words([Effect::Critical, Effect::Degraded, Effect::Incipient]),
        "work_kind" => words([
            WorkKind::CorrectiveImmediate,
            WorkKind::CorrectiveDeferred,
            WorkKind::ConditionBased,
            WorkKind::Predetermined,
            WorkKind::Inspection,
            WorkKind::Improvement,
        ]),
        "entry_kind" => words(EntryKind::ALL),
        "downtime_kind" => words([DowntimeKind::Unplanned, DowntimeKind::Planned, DowntimeKind::External]),
        "past_window" | "over_limit" | "settled" | "adjustment" => Dictionary::YesNo,
        _ => Dictionary::Numbers,
    }
}

impl Dictionary<'_> {
    /// As it stands in a filter.
    #[must_use]
    pub fn key(&self, number: i64) -> String {
        let place = usize::try_from(number).unwrap_or(usize::MAX);
        match self {
            Self::Words(words) => words.get(place).cloned().unwrap_or_default(),
            Self::Names(names) => names.get(place).cloned().unwrap_or_default(),
            Self::Assets(facts) => facts.assets.get(place).map_or_else(String::new, |asset| asset.code.clone()),
            Self::Named(named, _) => Names::find(named, number).map_or_else(String::new, |one| one.code.clone()),
            Self::YesNo => if number == 0 { "no" } else { "yes" }.into(),
            Self::Numbers => number.to_string(),
        }
    }

    /// As people call it.
    #[must_use]
    pub fn name(&self, number: i64) -> String {
        match self {
            Self::Assets(facts) => {
                let place = usize::try_from(number).unwrap_or(usize::MAX);
                facts.assets.get(place).map_or_else(String::new, |asset| asset.name.clone())
            }
            Self::Named(named, _) => Names::find(named, number).map_or_else(String::new, |one| one.name.clone()),
            _ => self.key(number),
        }
    }

    /// Where it stands in the order of what things are called.
    #[must_use]
    pub fn rank(&self, number: i64) -> i64 {
        match self {
            _ if number == NONE => NONE,
            Self::Assets(facts) => usize::try_from(number).map_or(NONE, |place| facts.tree.rank(place) as i64),
            Self::Named(_, ranks) => ranks.get(&number).copied().unwrap_or(NONE),
            // Few enough to be compared where they are told.
            Self::Names(names) => {
                let name = usize::try_from(number).ok().and_then(|place| names.get(place));
                names.iter().filter(|other| Some(*other) < name).count() as i64
            }
            Self::Words(_) | Self::YesNo | Self::Numbers => number,
        }
    }

    /// The numbers that a key of a filter stands for; none where it stands for nothing. Codes of failures stand in several
    /// codebooks.
    #[must_use]
    pub fn numbers(&self, key: &str) -> Vec<i64> {
        let place = |found: Option<usize>| found.map(|place| place as i64).into_iter().collect();
        match self {
            Self::Words(words) => place(words.iter().position(|word| word == key)),
            Self::Names(names) => place(names.iter().position(|name| name == key)),
            Self::Assets(facts) => place(facts.assets.iter().position(|asset| asset.code == key)),
            Self::Named(named, _) => named.iter().filter(|one| one.code == key).map(|one| one.id).collect(),
            Self::YesNo => match key {
                "yes" => vec![1],
                "no" => vec![0],
                _ => Vec::new(),
            },
            Self::Numbers => key.parse().into_iter().collect(),
        }
    }
}

/// The dense index of an asset.
pub(super) fn index(facts: &Snapshot, asset: AssetId) -> Option<u32> {
    facts.tree.index(asset).and_then(|index| u32::try_from(index).ok())
}

//! Words: what the numbers of a column stand for.

use super::context::Context;
use crate::{
    facts::{Named, Names, Snapshot, packed::NONE},
    ground::{bands::AGE_BANDS, ids::AssetId, severity::Severity, side::RungSide, words::word},
    plant::{
        assets::{Criticality, Level},
        downtime::DowntimeKind,
    },
    watch::alarms::{AlarmKind, LeftBy, ResponseGiven},
    work::{SourceWord, Verdict, WaitingFor, WorkKind, WorkState, entries::EntryKind, plans::CycleOutcome},
};
use rustc_hash::{FxHashMap, FxHashSet};
use serde::Serialize;

/// What the numbers of a column stand for.
#[derive(Debug)]
pub enum Dictionary<'a> {
    /// Each by its place, as it stands in the API.
    Words(Vec<String>),
    /// Each by its place, as it is called. With its place in the order of names.
    Names(&'a [String], Vec<i64>),
    /// By dense index of the tree.
    Assets(&'a Snapshot),
    /// By id. With their places in the order of names, and those whose code others have too.
    Named(&'a [Named], FxHashMap<i64, i64>, FxHashSet<i64>),
    YesNo,
    /// The numbers are what they are.
    Numbers,
}

fn words<T: Serialize>(all: impl IntoIterator<Item = T>) -> Dictionary<'static> {
    Dictionary::Words(all.into_iter().map(|one| word(&one)).collect())
}

fn named(all: &[Named]) -> Dictionary<'_> {
    told_apart(all, FxHashSet::default())
}

/// Of some of which others have the same code.
fn told_apart(all: &[Named], shared: FxHashSet<i64>) -> Dictionary<'_> {
    let mut order: Vec<&Named> = all.iter().collect();
    order.sort_by(|a, b| (&a.name, a.id).cmp(&(&b.name, b.id)));
    Dictionary::Named(all, order.into_iter().zip(0i64..).map(|(one, rank)| (one.id, rank)).collect(), shared)
}

fn names(all: &[String]) -> Dictionary<'_> {
    let mut order: Vec<usize> = (0..all.len()).collect();
    order.sort_by_key(|place| &all[*place]);
    let mut ranks = vec![0; all.len()];
    order.into_iter().zip(0i64..).for_each(|(place, rank)| ranks[place] = rank);
    Dictionary::Names(all, ranks)
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
        "meter" => named(&names.meters),
        "plan" => named(&names.plans),
        "outcome" => words(CycleOutcome::ALL),
        "assignee" | "raised_by" | "person" | "acknowledged_by" => named(&names.people),
        "problem" | "cause" | "remedy" => told_apart(&names.codes, names.shared_codes()),
        "item" => named(&names.items),
        "supplier" => named(&names.suppliers),
        "department" => self::names(&names.departments),
        "criticality" => words([Criticality::A, Criticality::B, Criticality::C]),
        "level" => words([Level::Site, Level::Unit, Level::System, Level::Equipment, Level::Part]),
        "state" => words(WorkState::ALL),
        "source" => words(SourceWord::ALL),
        "severity" => words(Severity::ALL),
        "waiting_for" => words([WaitingFor::Parts, WaitingFor::Outage, WaitingFor::People, WaitingFor::Other]),
        "verdict" => words([Verdict::FoundIt, Verdict::NothingWrong, Verdict::Other]),
        "effect" => words([Effect::Critical, Effect::Degraded, Effect::Incipient]),
        "work_kind" => words(WorkKind::ALL),
        "age_band" => Dictionary::Words((0..=AGE_BANDS.len()).map(|band| band.to_string()).collect()),
        "entry_kind" => words(EntryKind::ALL),
        "downtime_kind" => words([DowntimeKind::Unplanned, DowntimeKind::Planned, DowntimeKind::External]),
        "alarm_kind" => words([AlarmKind::Limit, AlarmKind::Silent]),
        "side" => words([RungSide::High, RungSide::Low, RungSide::Grade]),
        "left_by" => words(LeftBy::ALL),
        "response" => words(ResponseGiven::ALL),
        "past_window" | "over_limit" | "late_waiting" | "no_date_soon" | "settled" | "stands" | "is_stop" => {
            Dictionary::YesNo
        }
        _ => Dictionary::Numbers,
    }
}

impl Dictionary<'_> {
    /// As a filter takes it to let nothing else through.
    #[must_use]
    pub fn filter(&self, number: i64) -> String {
        match self {
            Self::Named(named, _, shared) if shared.contains(&number) => {
                Names::find(named, number).map_or_else(String::new, Named::told_apart)
            }
            _ => self.key(number),
        }
    }

    /// Its code or word, which a filter takes for all that have it.
    #[must_use]
    pub fn key(&self, number: i64) -> String {
        let place = usize::try_from(number).unwrap_or(usize::MAX);
        match self {
            Self::Words(words) => words.get(place).cloned().unwrap_or_default(),
            Self::Names(names, _) => names.get(place).cloned().unwrap_or_default(),
            Self::Assets(facts) => facts.assets.get(place).map_or_else(String::new, |asset| asset.code.clone()),
            Self::Named(named, ..) => Names::find(named, number).map_or_else(String::new, |one| one.code.clone()),
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
            Self::Named(named, ..) => Names::find(named, number).map_or_else(String::new, |one| one.name.clone()),
            _ => self.key(number),
        }
    }

    /// Where it stands in the order of what things are called.
    #[must_use]
    pub fn rank(&self, number: i64) -> i64 {
        match self {
            _ if number == NONE => NONE,
            Self::Assets(facts) => usize::try_from(number).map_or(NONE, |place| facts.tree.rank(place) as i64),
            Self::Named(_, ranks, _) => ranks.get(&number).copied().unwrap_or(NONE),
            Self::Names(_, ranks) => {
                usize::try_from(number).ok().and_then(|place| ranks.get(place)).copied().unwrap_or(NONE)
            }
            Self::Words(_) | Self::YesNo | Self::Numbers => number,
        }
    }

    /// The numbers that each key of a filter stands for; none where it stands for nothing. Codes of failures stand in several
    /// codebooks, and are told apart where one of them is meant. However many keys there are, what they are keys of is gone over once.
    #[must_use]
    pub fn numbers(&self, keys: &[String]) -> Vec<Vec<i64>> {
        let among = |all: &mut dyn Iterator<Item = (&str, i64)>| -> Vec<Vec<i64>> {
            let mut found: FxHashMap<&str, Vec<i64>> = keys.iter().map(|key| (key.as_str(), Vec::new())).collect();
            for (key, number) in all {
                if let Some(numbers) = found.get_mut(key) {
                    numbers.push(number);
                }
            }
            keys.iter().map(|key| found.get(key.as_str()).cloned().unwrap_or_default()).collect()
        };
        match self {
            Self::Words(words) => among(&mut words.iter().map(String::as_str).zip(0..)),
            Self::Names(names, _) => among(&mut names.iter().map(String::as_str).zip(0..)),
            Self::Assets(facts) => among(&mut facts.assets.iter().map(|asset| asset.code.as_str()).zip(0..)),
            Self::Named(named, ..) => {
                let found = among(&mut named.iter().map(|one| (one.code.as_str(), one.id)));
                let one = |key: &String| Named::of(named, key).map(|one| one.id).into_iter().collect();
                keys.iter().zip(found).map(|(key, found)| if found.is_empty() { one(key) } else { found }).collect()
            }
            Self::YesNo => among(&mut [("no", 0), ("yes", 1)].into_iter()),
            Self::Numbers => keys.iter().map(|key| key.parse().into_iter().collect()).collect(),
        }
    }
}

/// The dense index of an asset.
pub(super) fn index(facts: &Snapshot, asset: AssetId) -> Option<u32> {
    facts.tree.index(asset).and_then(|index| u32::try_from(index).ok())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn keys_are_found_in_all_that_have_them_and_names_are_ranked() {
        let of = |id, code: &str| Named { id, code: code.into(), name: format!("of {code}") };
        // A code of failures stands in two codebooks.
        let codes = [of(3, "NOISE"), of(5, "HEAT"), of(8, "NOISE")];
        let keys = ["NOISE".to_owned(), "COLD".into(), "HEAT".into(), "NOISE".into()];
        assert_eq!(named(&codes).numbers(&keys), [vec![3, 8], vec![], vec![5], vec![3, 8]]);
        // One of them alone is told apart by its number; one that no other has is not.
        let called = Names { codes: codes.to_vec(), ..Names::default() };
        let codes = told_apart(&called.codes, called.shared_codes());
        let filters = [3, 5, 8].map(|number| codes.filter(number));
        assert_eq!(filters, ["NOISE#3", "HEAT", "NOISE#8"]);
        assert_eq!(codes.numbers(&filters), [vec![3], vec![5], vec![8]]);
        assert_eq!(codes.numbers(&["NOISE#5".into(), "NOISE".into()]), [vec![], vec![3, 8]]);
        assert_eq!(codes.key(8), "NOISE", "as it is shown");
        assert_eq!(Dictionary::YesNo.numbers(&["yes".into(), "no".into(), "".into()]), [vec![1], vec![0], vec![]]);
        assert_eq!(Dictionary::Numbers.numbers(&["7".into(), "x".into()]), [vec![7], vec![]]);
        let departments = ["Ropes".to_owned(), "Lifts".into(), "Snow".into()];
        let names = names(&departments);
        assert_eq!([0, 1, 2, 3, NONE].map(|number| names.rank(number)), [1, 0, 2, NONE, NONE]);
    }
}

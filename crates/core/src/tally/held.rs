//! What a tally is held to: rows of some assets and some work only.

use crate::{
    access::refusal::Refusal,
    facts::{AssetFact, ByWork, Named, Snapshot, columns::Part, packed::Packed},
    ground::{ids::CrewId, time::Instant},
    plant::assets::Criticality,
    work::WorkKind,
};
use serde::{Deserialize, Serialize};
use std::borrow::Cow;

/// What somebody holds a tally to: all of it, each where something is named. An empty word stands for none.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields, default)]
pub struct HeldTo {
    /// Kinds of work.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub work_kind: Vec<WorkKind>,
    /// Codes of crews whose work it is.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub crew: Vec<String>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub department: Vec<String>,
    /// Ranks of the work, 1 to 5.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub rank: Vec<u8>,
    /// Codes of the equipment classes of assets.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub class: Vec<String>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub criticality: Vec<Criticality>,
    /// One of these tags.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub tag: Vec<String>,
}

/// What somebody holds a tally to, by the numbers that facts have.
#[derive(Debug, Clone, Default)]
pub(super) struct Conditions {
    kinds: Vec<WorkKind>,
    crews: Vec<Option<i64>>,
    departments: Vec<Option<u32>>,
    ranks: Vec<u8>,
}

impl Conditions {
    fn is_none(&self) -> bool {
        self.kinds.is_empty() && self.crews.is_empty() && self.departments.is_empty() && self.ranks.is_empty()
    }

    fn fit(&self, kind: WorkKind, crew: Option<CrewId>, department: Option<u32>, rank: u8) -> bool {
        self.has_kind(kind) && self.has_crew(crew) && self.has_department(department) && self.has_rank(rank)
    }

    pub(super) fn has_kind(&self, kind: WorkKind) -> bool {
        self.kinds.is_empty() || self.kinds.contains(&kind)
    }

    pub(super) fn has_crew(&self, crew: Option<CrewId>) -> bool {
        self.crews.is_empty() || self.crews.contains(&crew.map(|crew| crew.0))
    }

    pub(super) fn has_department(&self, department: Option<u32>) -> bool {
        self.departments.is_empty() || self.departments.contains(&department)
    }

    pub(super) fn has_rank(&self, rank: u8) -> bool {
        self.ranks.is_empty() || self.ranks.contains(&rank)
    }
}

/// Which assets and which work count.
#[derive(Debug, Clone)]
pub struct Held {
    pub(super) conditions: Conditions,
    assets: Option<Vec<bool>>,
    works: Option<ByWork<bool>>,
}

/// Ids of what is named; `None` among them where nothing is.
fn ids(field: &str, keys: &[String], known: &[Named]) -> Result<Vec<Option<i64>>, Refusal> {
    let id = |key: &String| match key.as_str() {
        "" => Ok(None),
        key => {
            let found = known.iter().find(|one| one.code == key);
            let unknown = || Refusal::field(field, format!("there is no {field} {key:?}"));
            found.map(|one| Some(one.id)).ok_or_else(unknown)
        }
    };
    keys.iter().map(id).collect()
}

fn departments(names: &[String], known: &[String]) -> Result<Vec<Option<u32>>, Refusal> {
    let place = |name: &String| match name.as_str() {
        "" => Ok(None),
        name => {
            let found = (0u32..).zip(known).find(|(_, one)| *one == name);
            let unknown = || Refusal::field("department", format!("there is no department {name:?}"));
            found.map(|(place, _)| Some(place)).ok_or_else(unknown)
        }
    };
    names.iter().map(place).collect()
}

impl HeldTo {
    /// What that is among the facts; `None` where everything counts.
    ///
    /// # Errors
    /// [`Refusal::Field`] for what is not there.
    pub fn held(&self, facts: &Snapshot) -> Result<Option<Held>, Refusal> {
        if let Some(rank) = self.rank.iter().find(|rank| !(1..=5).contains(*rank)) {
            return Err(Refusal::field("rank", format!("is 1 to 5, not {rank}")));
        }
        let classes = ids("class", &self.class, &facts.names.classes)?;
        let conditions = Conditions {
            kinds: self.work_kind.clone(),
            crews: ids("crew", &self.crew, &facts.names.crews)?,
            departments: departments(&self.department, &facts.names.departments)?,
            ranks: self.rank.clone(),
        };
        let is_of_all_assets = classes.is_empty() && self.criticality.is_empty() && self.tag.is_empty();
        let asset = |asset: &AssetFact| {
            let is_critical = || asset.criticality.is_some_and(|one| self.criticality.contains(&one));
            (classes.is_empty() || classes.contains(&asset.class))
                && (self.criticality.is_empty() || is_critical())
                && (self.tag.is_empty() || asset.tags.iter().any(|tag| self.tag.contains(tag)))
        };
        let assets = (!is_of_all_assets).then(|| facts.assets.iter().map(asset).collect());
        let works = (!conditions.is_none()).then(|| {
            let mut works = ByWork::new(&facts.works, false);
            for part in facts.works.parts() {
                for place in 0..part.len() {
                    let kind = WorkKind::unpack(part.kind[place]);
                    let (crew, department) = (Option::unpack(part.crew[place]), Option::unpack(part.department[place]));
                    let fits = conditions.fit(kind, crew, department, part.rank[place]);
                    works.put(part.number[place], fits);
                }
            }
            works
        });
        Ok((assets.is_some() || works.is_some()).then_some(Held { conditions, assets, works }))
    }
}

impl Held {
    /// By dense index whether what happens on an asset counts; `None` where it does on all.
    pub(super) fn assets(&self) -> Option<&[bool]> {
        self.assets.as_deref()
    }

    /// The work that counts, by what it is or, where that is asked, was at an instant; `None` where all does.
    pub(super) fn works(&self, facts: &Snapshot, at: Option<Instant>) -> Option<Cow<'_, ByWork<bool>>> {
        let mut works = Cow::Borrowed(self.works.as_ref()?);
        if let Some(at) = at {
            facts.each_fields_at(at, |then| {
                let (work, fits) =
                    (then.work.pack(), self.conditions.fit(then.kind, then.crew, then.department, then.rank));
                if works.of(work) != fits {
                    works.to_mut().put(work, fits);
                }
            });
        }
        Some(works)
    }

    /// Whether it is held to some work: what is of none does not count then.
    pub(super) fn is_of_work(&self) -> bool {
        self.works.is_some()
    }

    /// Whether what is of that order counts.
    pub(super) fn holds(&self, asset: u32, work: u32) -> bool {
        self.assets.as_ref().is_none_or(|assets| assets.get(asset as usize) == Some(&true)) && self.holds_work(work)
    }

    /// Whether what is of that order counts, whatever its asset.
    pub(super) fn holds_work(&self, work: u32) -> bool {
        self.works.as_ref().is_none_or(|works| works.of(work))
    }
}

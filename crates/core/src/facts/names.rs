//! What things are called, and what assets are, as lists need it: today's.

use crate::{
    ground::ids::{AssetId, CrewId},
    plant::assets::{Criticality, Level},
};
use rustc_hash::{FxHashMap, FxHashSet};

/// One asset.
#[derive(Debug, Clone, PartialEq)]
pub struct AssetFact {
    pub id: AssetId,
    pub code: String,
    pub name: String,
    pub level: Level,
    /// Id of its equipment class.
    pub class: Option<i64>,
    pub criticality: Option<Criticality>,
    pub crew: Option<CrewId>,
    pub tags: Vec<String>,
}

/// Something with a code and a name.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Named {
    pub id: i64,
    pub code: String,
    pub name: String,
}

impl Named {
    /// What a filter calls it where others have the same code.
    #[must_use]
    pub fn told_apart(&self) -> String {
        format!("{}#{}", self.code, self.id)
    }

    /// The one that is [told apart](Self::told_apart) so; no code has such a sign in it.
    #[must_use]
    pub fn of<'a>(all: &'a [Self], told_apart: &str) -> Option<&'a Self> {
        let (code, id) = told_apart.rsplit_once('#')?;
        Names::find(all, id.parse().ok()?).filter(|one| one.code == code)
    }
}

/// Names of what rows refer to, each in the order of ids.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Names {
    pub crews: Vec<Named>,
    pub people: Vec<Named>,
    pub classes: Vec<Named>,
    pub meters: Vec<Named>,
    /// Work that recurs.
    pub plans: Vec<Named>,
    /// Problems, causes and remedies.
    pub codes: Vec<Named>,
    /// What is bought, and who sells it: each called by its name.
    pub items: Vec<Named>,
    pub suppliers: Vec<Named>,
    /// In the order in which work named them first.
    pub departments: Vec<String>,
}

impl Names {
    /// The number of a department; a new one where it has none yet.
    pub fn department(&mut self, name: &str) -> u32 {
        let place = self.departments.iter().position(|known| known == name).unwrap_or_else(|| {
            self.departments.push(name.into());
            self.departments.len() - 1
        });
        u32::try_from(place).unwrap_or(u32::MAX - 1)
    }

    /// Ids of problems, causes and remedies whose code others have too: in other codebooks, or below other codes.
    #[must_use]
    pub fn shared_codes(&self) -> FxHashSet<i64> {
        let mut of_code: FxHashMap<&str, Vec<i64>> = FxHashMap::default();
        self.codes.iter().for_each(|one| of_code.entry(&one.code).or_default().push(one.id));
        of_code.into_values().filter(|ids| ids.len() > 1).flatten().collect()
    }

    /// The one of that id.
    #[must_use]
    pub fn find(of: &[Named], id: i64) -> Option<&Named> {
        of.binary_search_by_key(&id, |named| named.id).ok().map(|place| &of[place])
    }
}

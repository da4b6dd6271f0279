//! What a tally is held to, as it stands in links.

use crate::ground::error::ApiError;
use serde::{Deserialize, de::DeserializeOwned};
use std::sync::Arc;
use tally_core::{
    facts::Snapshot,
    ground::words::word,
    lists::FilterAsked,
    tally::{Held, HeldTo},
};
use utoipa::IntoParams;

/// Values with `|` between; an empty one, as in `crew=|`, stands for none.
#[derive(Debug, Default, Clone, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct HeldParams {
    /// Kinds of work.
    work_kind: Option<String>,
    /// Codes of crews.
    crew: Option<String>,
    department: Option<String>,
    /// 1 to 5.
    rank: Option<String>,
    /// Codes of equipment classes.
    class: Option<String>,
    /// A, B, C.
    criticality: Option<String>,
    tag: Option<String>,
}

/// The values of a parameter.
pub fn values(text: Option<&str>) -> Vec<String> {
    let text = text.unwrap_or_default();
    let mut values: Vec<String> = text.split('|').map(|value| value.trim().to_owned()).collect();
    values.dedup();
    if text.is_empty() { Vec::new() } else { values }
}

/// The same, each one of some words.
pub fn words<T: DeserializeOwned>(field: &str, text: Option<&str>) -> Result<Vec<T>, ApiError> {
    let word = |value: String| {
        let unknown = || ApiError::bad(field, format!("{value:?} is none there is"));
        serde_json::from_value(serde_json::Value::String(value.clone())).map_err(|_unknown| unknown())
    };
    values(text).into_iter().map(word).collect()
}

impl HeldParams {
    /// What is named.
    pub fn to(&self) -> Result<HeldTo, ApiError> {
        let rank = |value: String| value.parse().map_err(|_unread| ApiError::bad("rank", "is 1 to 5"));
        Ok(HeldTo {
            work_kind: words("work_kind", self.work_kind.as_deref())?,
            crew: values(self.crew.as_deref()),
            department: values(self.department.as_deref()),
            rank: values(self.rank.as_deref()).into_iter().map(rank).collect::<Result<_, _>>()?,
            class: values(self.class.as_deref()),
            criticality: words("criticality", self.criticality.as_deref())?,
            tag: values(self.tag.as_deref()),
        })
    }

    /// What that is among the facts.
    pub fn held(&self, facts: &Snapshot) -> Result<Option<Arc<Held>>, ApiError> {
        let held = self.to()?.held(facts).map_err(tally_store::StoreError::from)?;
        Ok(held.map(Arc::new))
    }
}

/// Work that has one of these values; none where all have.
pub fn filter(column: &str, is: Vec<String>) -> Option<FilterAsked> {
    (!is.is_empty()).then(|| FilterAsked { column: column.into(), is: Some(is), ..FilterAsked::default() })
}

/// What figures are held to, as a list of work is.
pub fn held_filters(held: &HeldTo) -> impl Iterator<Item = FilterAsked> {
    let all = [
        filter("work_kind", held.work_kind.iter().map(word).collect()),
        filter("crew", held.crew.clone()),
        filter("department", held.department.clone()),
        filter("rank", held.rank.iter().map(ToString::to_string).collect()),
        filter("class", held.class.clone()),
        filter("criticality", held.criticality.iter().map(word).collect()),
        filter("tags", held.tag.clone()),
    ];
    all.into_iter().flatten()
}

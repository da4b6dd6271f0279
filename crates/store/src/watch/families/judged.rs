//! What a ladder would have done on all meters of a family, and what they speak for.

use crate::{
    ground::{
        error::{Result, StoreError},
        view::View,
    },
    watch::{
        families::members::{class_of, members, written},
        replay,
        replay::{FinderAsked, FinderView, JudgedBy, ManyReplay, Member, MeterForecast, ProposalsAsked, ProposalsView},
    },
};
use tally_core::{ground::time::Span, watch::limits::Ladder};

fn to_run(view: &View, class: &str, name: &str, ladder: Option<Ladder>) -> Result<(Vec<Member>, Ladder)> {
    let (class_id, _) = class_of(view.conn, class)?;
    let found = members(view.conn, class_id, name, &view.viewer.reaches("m.asset_id"))?;
    let ladder = match ladder {
        Some(ladder) => ladder,
        None => written(view.conn, class_id, name)?.map(|family| family.ladder).unwrap_or_default(),
    };
    ladder.check(&found[0].rules).map_err(|error| StoreError::invalid(format!("ladder.{}", error.field()), error))?;
    let members = found.into_iter().map(|one| Member { code: one.code, asset: one.asset });
    Ok((members.collect(), ladder))
}

/// What a ladder would have done on all meters of a family.
///
/// # Errors
/// As [`view`]; [`StoreError::Invalid`] for a ladder that can't be.
pub fn replay_of(
    view: &View,
    class: &str,
    name: &str,
    span: Span,
    ladder: Option<Ladder>,
    asked: &JudgedBy,
) -> Result<ManyReplay> {
    let (members, ladder) = to_run(view, class, name, ladder)?;
    replay::of_many(view, &members, span, &ladder, asked)
}

/// What each of many settings of one rung would have come to on all meters of a family.
///
/// # Errors
/// As [`replay_of`].
pub fn finder_of(
    view: &View,
    class: &str,
    name: &str,
    span: Span,
    ladder: Option<Ladder>,
    which: &FinderAsked,
    asked: &JudgedBy,
) -> Result<FinderView> {
    let (members, ladder) = to_run(view, class, name, ladder)?;
    replay::find_many(view, &members, span, &ladder, which, asked)
}

/// Setpoints that the baseline windows of a family's meters speak for together.
///
/// # Errors
/// As [`view`], and as for one meter.
pub fn proposals_of(view: &View, class: &str, name: &str, span: Span, asked: &ProposalsAsked) -> Result<ProposalsView> {
    let (members, _) = to_run(view, class, name, None)?;
    replay::proposals_of_many(view, &members, span, asked)
}

/// Meters of a family that get to a rung of the ladder given (or of the family's), the soonest first.
///
/// # Errors
/// As [`replay_of`].
pub fn forecast_of(
    view: &View,
    class: &str,
    name: &str,
    span: Span,
    ladder: Option<Ladder>,
) -> Result<Vec<MeterForecast>> {
    let (members, ladder) = to_run(view, class, name, ladder)?;
    replay::forecast_many(view, &members, span, &ladder)
}

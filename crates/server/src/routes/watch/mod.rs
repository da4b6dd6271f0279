//! What is watched: meters, readings and their corrections, limits and families of them, alarms, and what limits would have done.

pub mod alarms;
pub mod corrections;
pub mod families;
pub mod limits;
pub mod meters;
pub mod readings;
pub mod replay;

use crate::AppState;
use utoipa_axum::{router::OpenApiRouter, routes};

/// Its routes.
pub fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(meters::list, meters::add))
        .routes(routes!(meters::one))
        .routes(routes!(meters::lanes))
        .routes(routes!(readings::of_meter))
        .routes(routes!(readings::post))
        .routes(routes!(limits::get, limits::put))
        .routes(routes!(limits::edit))
        .routes(routes!(replay::replay))
        .routes(routes!(limits::approve))
        .routes(routes!(limits::turn_down))
        .routes(routes!(limits::changes))
        .routes(routes!(replay::finder))
        .routes(routes!(replay::proposals))
        .routes(routes!(replay::forecast))
        .routes(routes!(families::list))
        .routes(routes!(families::one, families::put))
        .routes(routes!(families::approve))
        .routes(routes!(families::turn_down))
        .routes(routes!(replay::of_family))
        .routes(routes!(replay::finder_of_family))
        .routes(routes!(replay::proposals_of_family))
        .routes(routes!(replay::forecast_of_family))
        .routes(routes!(alarms::of_meter))
        .routes(routes!(alarms::now))
        .routes(routes!(alarms::performance))
        .routes(routes!(alarms::acknowledge))
        .routes(routes!(alarms::acknowledge_many))
        .routes(routes!(alarms::take_back))
        .routes(routes!(alarms::shelve, alarms::unshelve))
        .routes(routes!(alarms::put_out_of_use, alarms::back_in_use))
        .routes(routes!(alarms::judge_late))
        .routes(routes!(corrections::list))
        .routes(routes!(corrections::void))
        .routes(routes!(corrections::release))
        .routes(routes!(corrections::exchange))
        .routes(routes!(corrections::usage))
}

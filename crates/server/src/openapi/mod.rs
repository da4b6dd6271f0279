//! All routes on one page, and the description of the API generated from them.

mod bounds;
mod refusals;

use crate::{AppState, routes as r};
use axum::Router;
use serde_json::Value;
use std::collections::BTreeMap;
use utoipa::{OpenApi, openapi::OpenApi as Description};
use utoipa_axum::{router::OpenApiRouter, routes};

#[derive(OpenApi)]
#[openapi(
    components(schemas(
        crate::files::FileKind,
        crate::error::Problem,
        crate::error::FieldError,
        tally_core::watch::batch::Receipt
    )),
    info(
        title = "Fair Tally",
        description = "Limits that raise work, and a tally that shows what it adds up to. The header x-person says on whose \
                   behalf a request is made; without it the first administrator acts. Errors are problem details (RFC 9457)."
    )
)]
struct Info;

/// The routes of the API with their description.
pub fn routes() -> (Router<AppState>, Description) {
    let v1 = OpenApiRouter::new()
        .routes(routes!(r::settings::get, r::settings::put))
        .routes(routes!(r::settings::approve_off))
        .routes(routes!(r::settings::turn_down_off))
        .routes(routes!(r::people::list, r::people::add))
        .routes(routes!(r::people::crews, r::people::add_crew))
        .routes(routes!(r::start::get))
        .routes(routes!(r::period::get))
        .routes(routes!(r::search::find))
        .routes(routes!(r::clock::get, r::clock::set))
        .routes(routes!(r::assets::list, r::assets::add))
        .routes(routes!(r::assets::one))
        .routes(routes!(r::assets::relocate))
        .routes(routes!(r::assets::set_parent_effect))
        .routes(routes!(r::assets::picture, r::assets::put_picture, r::assets::remove_picture))
        .routes(routes!(r::master::list, r::master::take))
        .routes(routes!(r::master::history))
        .routes(routes!(r::files::import))
        .routes(routes!(r::files::progress, r::files::cancel))
        .routes(routes!(r::files::export))
        .routes(routes!(r::assets::add_class))
        .routes(routes!(r::calendars::list, r::calendars::add))
        .routes(routes!(r::calendars::change))
        .routes(routes!(r::calendars::assign))
        .routes(routes!(r::meters::list, r::meters::add))
        .routes(routes!(r::meters::one))
        .routes(routes!(r::meters::lanes))
        .routes(routes!(r::readings::of_meter))
        .routes(routes!(r::readings::post))
        .routes(routes!(r::limits::get, r::limits::put))
        .routes(routes!(r::limits::edit))
        .routes(routes!(r::replay::replay))
        .routes(routes!(r::limits::approve))
        .routes(routes!(r::limits::turn_down))
        .routes(routes!(r::limits::changes))
        .routes(routes!(r::replay::finder))
        .routes(routes!(r::replay::proposals))
        .routes(routes!(r::replay::forecast))
        .routes(routes!(r::families::list))
        .routes(routes!(r::families::one, r::families::put))
        .routes(routes!(r::families::approve))
        .routes(routes!(r::families::turn_down))
        .routes(routes!(r::replay::of_family))
        .routes(routes!(r::replay::finder_of_family))
        .routes(routes!(r::replay::proposals_of_family))
        .routes(routes!(r::replay::forecast_of_family))
        .routes(routes!(r::alarms::of_meter))
        .routes(routes!(r::alarms::now))
        .routes(routes!(r::alarms::performance))
        .routes(routes!(r::alarms::acknowledge))
        .routes(routes!(r::alarms::acknowledge_many))
        .routes(routes!(r::alarms::take_back))
        .routes(routes!(r::alarms::shelve, r::alarms::unshelve))
        .routes(routes!(r::alarms::put_out_of_use, r::alarms::back_in_use))
        .routes(routes!(r::alarms::judge_late))
        .routes(routes!(r::corrections::list))
        .routes(routes!(r::corrections::void))
        .routes(routes!(r::corrections::release))
        .routes(routes!(r::corrections::exchange))
        .routes(routes!(r::corrections::usage))
        .routes(routes!(r::outside::outbox))
        .routes(routes!(r::outside::webhooks, r::outside::add_webhook))
        .routes(routes!(r::outside::stop_webhook))
        .routes(routes!(r::outside::resend))
        .routes(routes!(r::outside::tags, r::outside::set_tag))
        .routes(routes!(r::outside::remove_tag))
        .routes(routes!(r::outside::live))
        .routes(routes!(r::work_orders::list, r::work_orders::raise))
        .routes(routes!(r::work_orders::one, r::work_orders::change))
        .routes(routes!(r::work_orders::set_state))
        .routes(routes!(r::work_orders::add_entry))
        .routes(routes!(r::work_orders::reverse_entry))
        .routes(routes!(r::work_orders::add_downtime))
        .routes(routes!(r::work_orders::put_failure))
        .routes(routes!(r::work_orders::remove_failure))
        .routes(routes!(r::downtime::add_to_asset))
        .routes(routes!(r::downtime::end))
        .routes(routes!(r::codebooks::list))
        .routes(routes!(r::codebooks::one, r::codebooks::put))
        .routes(routes!(r::tally::indicators))
        .routes(routes!(r::tally::get));
    let (router, mut description) = OpenApiRouter::with_openapi(Info::openapi()).nest("/api/v1", v1).split_for_parts();
    name_operations(&mut description);
    (router, description)
}

/// Handlers of different resources share names such as `list`: the path makes an operation's id unique.
fn name_operations(description: &mut Description) {
    for (path, item) in &mut description.paths.paths {
        let place = path.trim_start_matches("/api/v1/").replace(['{', '}'], "").replace(['/', '-'], "_");
        let operations = [
            ("get", &mut item.get),
            ("put", &mut item.put),
            ("post", &mut item.post),
            ("patch", &mut item.patch),
            ("delete", &mut item.delete),
        ];
        for (method, operation) in operations {
            if let Some(operation) = operation {
                operation.operation_id = Some(format!("{method}_{place}"));
            }
        }
    }
}

/// The description of the API, whole.
#[must_use]
pub fn description() -> Value {
    let mut description = serde_json::to_value(routes().1).unwrap_or_default();
    refusals::complete(&mut description);
    sorted(description)
}

/// With the fields of every object in order of their names, whatever order maps keep in this build.
fn sorted(value: Value) -> Value {
    match value {
        Value::Object(fields) => {
            let fields: BTreeMap<String, Value> = fields.into_iter().collect();
            fields.into_iter().map(|(name, value)| (name, sorted(value))).collect()
        }
        Value::Array(values) => values.into_iter().map(sorted).collect(),
        other => other,
    }
}

/// The description as the web's types are generated from it.
#[must_use]
pub fn text() -> String {
    format!("{:#}\n", description())
}

//! The routes of the API with the description that is generated from them.

mod bounds;
mod refusals;

use crate::AppState;
use axum::Router;
use serde_json::Value;
use std::collections::BTreeMap;
use utoipa::{OpenApi, openapi::OpenApi as Description};
use utoipa_axum::router::OpenApiRouter;

#[derive(OpenApi)]
#[openapi(
    components(schemas(
        crate::outside::files::FileKind,
        crate::ground::error::Problem,
        crate::ground::error::FieldError,
        tally_core::watch::batch::Receipt
    )),
    info(
        title = "Fair Tally",
        description = "Limits that raise work, and a tally that shows what it adds up to. Every write but those of \
            readings and files, whose rows are known by themselves, may carry an `idempotency-key`: sent again under the \
            same key, it is not done again, and the first answer goes out. People sign in at \
            `POST /session`, which gives a cookie; gateways and scripts send `Authorization: Bearer` with their key. Errors are problem details (RFC 9457)."
    )
)]
struct Info;

/// The routes of the API with their description.
pub fn routes() -> (Router<AppState>, Description) {
    let v1 = crate::routes::routes();
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

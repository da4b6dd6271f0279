//! Where in the plant each route reaches. Whoever is bounded gets no further than what has a line here.

use axum::http::Method;
use percent_encoding::percent_decode_str;
use tally_core::ground::ids::WorkOrderId;
use tally_store::ground::reach::Named;

/// Where in the plant a request reaches.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Place {
    /// It is of no place: who signs in, what people and codes are called, the clock.
    Nowhere,
    /// What its path names.
    At(Named),
    /// The look finds out by itself what is reached, or the write what its body names.
    Within,
    /// The plant as a whole: for those who reach everywhere.
    Whole,
}

/// Master data that is said of the whole plant or not at all.
const OF_ALL: [&str; 4] = ["/people", "/crews", "/upkeep-plans", "/storeroom"];

/// Where a request reaches, by its method, the path it is described by, and the path as called.
pub fn place(method: &Method, path: &str, called: &str) -> Place {
    let is_look = matches!(*method, Method::GET | Method::HEAD);
    let at = |named: Option<Named>| named.map_or(Place::Within, Place::At);
    match path {
        "/session"
        | "/session/code"
        | "/session/demo"
        | "/session/password"
        | "/session/again"
        | "/session/pin"
        | "/session/passkey"
        | "/session/passkey/ask"
        | "/passkeys"
        | "/passkeys/ask"
        | "/passkeys/{id}"
        | "/sessions"
        | "/sessions/{id}"
        | "/clock"
        | "/indicators"
        | "/period"
        | "/lists"
        | "/ladders/edit"
        | "/feeds/{secret}/work.ics"
        | "/items"
        | "/storeroom"
        | "/files"
        | "/check-sheets/try"
        | "/suppliers" => Place::Nowhere,
        "/lists/{subject}/views" | "/lists/{subject}/views/{id}" => Place::Nowhere,
        "/people"
        | "/crews"
        | "/calendars"
        | "/settings"
        | "/codebooks"
        | "/codebooks/{code}"
        | "/job-sheets"
        | "/job-sheets/{code}"
        | "/check-sheets"
        | "/check-sheets/{code}"
        | "/check-sheets/{code}/pictures/{file}"
        | "/check-questions"
            if is_look =>
        {
            Place::Nowhere
        }
        // What is elsewhere is left out of a map.
        "/rounds/map" if is_look => Place::Within,
        // Jobs are those of who began them; a file of readings is judged row by row.
        "/imports/{job}" | "/readings" => Place::Within,
        "/import/{kind}" if called.ends_with("/readings") => Place::Within,
        "/lists/{subject}"
        | "/lists/{file}/file"
        | "/search"
        | "/start"
        | "/live"
        | "/alarms"
        | "/alarms/performance"
        | "/alarms/acknowledge"
        | "/alarms/acknowledge/take-back"
        | "/headlines"
        | "/work-orders"
        | "/decisions"
        | "/work-orders/already-raised"
        | "/work-orders/several"
        | "/shift"
        | "/shift/taken-along"
        | "/work/week"
        | "/work/feeds"
        | "/work-orders/several/{batch}/put-back" => Place::Within,
        // Each plan stands on its assets: those that are reached.
        path if path.starts_with("/upkeep/") => Place::Within,
        "/assets" | "/meters" | "/families" if is_look => Place::Within,
        // What people and crews are given is said with their rows, wherever it is; plans of a class are for all of it.
        "/master/{kind}" if is_look && !OF_ALL.iter().any(|kind| called.ends_with(kind)) => Place::Within,
        path if path.starts_with("/tally") => Place::Within,
        // A family's meters stand all over the plant: those that are reached are looked at, but its limits are everybody's.
        path if path.starts_with("/families/")
            && (is_look || *method == Method::POST && !path.ends_with("/approve")) =>
        {
            Place::Within
        }
        "/assets/{code}/move" | "/assets/{code}/parent-effect" | "/assets/{code}/calendar" => Place::Whole,
        path if path.starts_with("/assets/{code}") => at(text(path, called).map(Named::Asset)),
        path if path.starts_with("/meters/{code}") => at(text(path, called).map(Named::Meter)),
        path if path.starts_with("/work-orders/{number}") => {
            at(number(path, called).map(WorkOrderId).map(Named::Order))
        }
        "/alarms/{id}/acknowledge" => at(number(path, called).map(Named::Alarm)),
        "/late-readings/{id}/judge" => at(number(path, called).map(Named::Late)),
        "/downtime/odd" if is_look => Place::Within,
        "/downtime/{id}" | "/downtime/{id}/end" | "/downtime/{id}/put-back" => {
            at(number(path, called).map(Named::Downtime))
        }
        _ => Place::Whole,
    }
}

/// What stands in the path as called for the first name of the path as described.
fn text(path: &str, called: &str) -> Option<String> {
    let from_end = path.rsplit('/').collect::<Vec<_>>().iter().rposition(|part| part.starts_with('{'))?;
    let given = called.rsplit('/').nth(from_end)?;
    percent_decode_str(given).decode_utf8().ok().map(Into::into)
}

fn number(path: &str, called: &str) -> Option<i64> {
    text(path, called)?.parse().ok()
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::an_asset("/assets/{code}", "/api/v1/assets/P%201", Some(Named::Asset("P 1".into())))]
    #[case::below("/meters/{code}/ladder/changes", "/meters/BAR/ladder/changes", Some(Named::Meter("BAR".into())))]
    #[case::an_order(
        "/work-orders/{number}/entries/{id}/reverse",
        "/work-orders/7/entries/9/reverse",
        Some(Named::Order(WorkOrderId(7)))
    )]
    #[case::no_number("/work-orders/{number}", "/work-orders/x", None)]
    fn what_a_path_names(#[case] path: &str, #[case] called: &str, #[case] named: Option<Named>) {
        assert_eq!(place(&Method::GET, path, called), named.map_or(Place::Within, Place::At));
    }

    /// A route that nobody thought of is nobody's who is bounded.
    #[test]
    fn what_has_no_line_is_of_the_whole() {
        assert_eq!(place(&Method::POST, "/some-day", "/some-day"), Place::Whole);
        assert_eq!(place(&Method::POST, "/people", "/people"), Place::Whole);
        assert_eq!(place(&Method::PUT, "/families/{class}/{name}", "/families/a/b"), Place::Whole);
        assert_eq!(place(&Method::POST, "/import/{kind}", "/import/assets"), Place::Whole);
    }
}

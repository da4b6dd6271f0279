//! What each write asks of a role, before its body is read. What it asks beyond the role, its own function does.

use axum::http::Method;
use tally_core::{
    access::{roles::Action, seen::Topic},
    lists::SubjectId,
};

/// What a route asks of who calls it. All but [`Self::Open`] ask that somebody is signed in.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Asks {
    /// Nothing at all: it is how one signs in.
    Open,
    /// Nothing here: the look itself asks, or it is everybody's.
    Nothing,
    /// To be a person, not a key: it is about their own way in.
    Person,
    /// To see something.
    Look(Topic),
    /// To be allowed one of these.
    AnyOf(&'static [Action]),
}

/// What a route asks, by its method and the path it is described by; `None` for a write that has no line here, which is
/// nobody's.
pub fn asks(method: &Method, path: &str, called: &str) -> Option<Asks> {
    use Action as A;
    use Asks::{AnyOf, Look, Nothing, Open, Person};
    match path {
        "/session/pin" if *method == Method::POST => return Some(Open),
        "/session/pin" | "/session/password" | "/session/again" | "/sessions" | "/sessions/{id}" | "/passkeys"
        | "/passkeys/ask" | "/passkeys/{id}" => return Some(Person),
        "/session" if *method == Method::DELETE => return Some(Person),
        // Whoever has the address.
        "/feeds/{secret}/work.ics" => return Some(Open),
        "/work/feeds" if *method != Method::GET => return Some(Look(Topic::Work)),
        "/session" | "/session/code" | "/session/demo" | "/session/passkey" | "/session/passkey/ask" => {
            return Some(Open);
        }
        _ => {}
    }
    if matches!(*method, Method::GET | Method::HEAD) {
        return Some(Nothing);
    }
    let write: &'static [Action] = match path {
        "/clock" | "/imports/{job}" => return Some(Nothing),
        // Moves between states have rules of their own, by state and role.
        "/work-orders/{number}/state" | "/work-orders/several" | "/work-orders/several/{batch}/put-back" => {
            return Some(Look(Topic::Work));
        }
        // Whoever is asked answers, whatever their role.
        "/work-orders/{number}/decisions/{id}" => return Some(Look(Topic::Work)),
        // Questions too long for an address, and what everybody keeps for themselves.
        "/lists/{subject}" | "/lists/{subject}/views" | "/lists/{subject}/views/{id}" => {
            let subject = called.split("/lists/").nth(1).and_then(|rest| rest.split('/').next());
            return Some(Look(subject.and_then(SubjectId::parse).map_or(Topic::Work, SubjectId::topic)));
        }
        "/meters/{code}/replay"
        | "/meters/{code}/finder"
        | "/meters/{code}/proposals"
        | "/meters/{code}/forecast"
        | "/ladders/edit" => {
            return Some(Look(Topic::Meters));
        }
        path if path.starts_with("/families/") && *method == Method::POST && !path.ends_with("/approve") => {
            return Some(Look(Topic::Meters));
        }
        // A question too long for an address.
        "/check-sheets/try" => return Some(Look(Topic::Work)),
        "/check-sheets/{code}" | "/upkeep/moves" | "/upkeep/plans/{code}/now" | "/job-sheets/{code}" => &[A::PlanWork],
        "/master/{kind}" | "/import/{kind}" => match called.rsplit('/').next().unwrap_or_default() {
            "people" => &[A::ChangePeople],
            "crews" => &[A::ChangeCrews],
            "upkeep-plans" | "storeroom" | "work-orders" | "work-entries" => &[A::PlanWork],
            "limits" => &[A::SetLimits],
            "codebooks" => &[A::ChangeCodebooks],
            "readings" => &[A::SendReadings],
            _ => &[A::ChangeMasterData],
        },
        "/people" | "/people/{code}/reset-code" | "/people/{code}/sessions" => &[A::ChangePeople],
        "/keys" | "/keys/{name}" | "/devices" | "/devices/{id}" => &[A::ChangeKeys],
        "/crews" => &[A::ChangeCrews],
        // Those of crews and those of assets; which of them its own function asks.
        "/values" | "/values/{id}" => &[A::ChangeCrews, A::ChangeMasterData],
        "/readings" => &[A::SendReadings],
        "/backups" => &[A::BackUp],
        "/codebooks/{code}" => &[A::ChangeCodebooks],
        "/assets/{code}/downtime" | "/downtime/{id}" | "/downtime/{id}/end" | "/downtime/{id}/put-back" => {
            &[A::ReportDowntime]
        }
        "/assets/{code}/out-of-use" | "/meters/{code}/shelf" => &[A::ShelveAlarms],
        "/meters/{code}/void" | "/meters/{code}/release" | "/meters/{code}/exchange" => &[A::CorrectReadings],
        "/alarms/{id}/acknowledge"
        | "/alarms/acknowledge"
        | "/alarms/acknowledge/take-back"
        | "/late-readings/{id}/judge" => &[A::AcknowledgeAlarms],
        "/work-orders" | "/work-orders/{number}/occurrences" | "/work-orders/{number}/links" => &[A::RaiseWork],
        "/files"
        | "/work-orders/{number}/attachments"
        | "/work-orders/{number}/attachments/{id}"
        | "/work-orders/{number}/attachments/{id}/put-back"
        | "/work-orders/{number}/comments"
        | "/work-orders/{number}/comments/{id}"
        | "/work-orders/{number}/comments/{id}/put-back" => &[A::RaiseWork, A::ReportOnWork],
        "/work-orders/{number}/occurrences/{id}" => &[A::RaiseWork, A::PlanWork],
        "/work-orders/{number}/links/{to}" => &[A::PlanWork],
        "/work-orders/{number}" | "/work-orders/{number}/place" => &[A::PlanWork],
        "/settings/second-approval/approve" | "/settings/second-approval/proposed" => {
            &[A::SetLimits, A::ChangeMasterData]
        }
        path if path.starts_with("/work-orders/") => &[A::ReportOnWork, A::AdjustClosedWork],
        path if path.contains("/ladder") || path.starts_with("/families/") => &[A::SetLimits],
        "/settings" | "/assets" | "/equipment-classes" | "/meters" | "/tags" | "/tags/{tag}" | "/webhooks" => {
            &[A::ChangeMasterData]
        }
        "/webhooks/{id}" | "/webhooks/{id}/resend" | "/deliveries/{id}/resend" | "/calendars" | "/calendars/{code}" => {
            &[A::ChangeMasterData]
        }
        path if path.starts_with("/assets/{code}/") => &[A::ChangeMasterData],
        _ => return None,
    };
    Some(AnyOf(write))
}

/// Whether it takes a password that was given a short while ago: who opens the door to others or anew to
/// themselves, and who approves.
pub fn asks_fresh(method: &Method, path: &str, asks: Asks) -> bool {
    let approves = *method != Method::GET && path.ends_with("/approve");
    let adds_a_way_in =
        *method == Method::POST && path.starts_with("/passkeys") || *method == Method::PUT && path == "/session/pin";
    approves
        || adds_a_way_in
        || matches!(asks, Asks::AnyOf(actions) if actions.iter().any(|action| action.asks_fresh()))
}

/// Whether what goes in or out holds a secret, of which nothing may be kept.
pub fn holds_secrets(path: &str) -> bool {
    path.starts_with("/session") || matches!(path, "/keys" | "/people/{code}/reset-code")
}

//! Photos with work: sent, attached, seen by who sees the order.

use crate::caller::Caller;
use axum::body::to_bytes;
use serde_json::{Value, json};

/// A picture of one red point (PNG, RFC 2083), made by a general library.
fn png() -> Vec<u8> {
    let mut bytes = std::io::Cursor::new(Vec::new());
    image::RgbImage::from_pixel(1, 1, image::Rgb([220, 20, 20])).write_to(&mut bytes, image::ImageFormat::Png).unwrap();
    bytes.into_inner()
}

async fn sent(caller: &Caller) -> String {
    let sent = caller.bytes("POST", "/api/v1/files", "image/png", png()).await;
    assert_eq!(sent.status, 201, "{}", sent.body);
    assert_eq!((&sent.body["media_type"], &sent.body["width"]), (&json!("image/jpeg"), &json!(1)));
    sent.body["file"].as_str().unwrap().into()
}

async fn raised(caller: &Caller, person: &str, file: &str) -> i64 {
    let new = json!({"title": "A crack", "kind": "corrective_deferred", "asset": "P1", "risk_rank": 3,
        "attachments": [{"file": file, "name": "crack.png"}]});
    let answer = caller.call("POST", "/work-orders", Some(person), Some(new)).await;
    assert_eq!(answer.status, 201, "{}", answer.body);
    answer.body["number"].as_i64().unwrap()
}

#[tokio::test]
async fn a_requester_sends_a_photo_and_who_sees_the_order_sees_it() {
    let caller = Caller::new().await;
    let file = sent(&caller).await;
    let (own, others) = (raised(&caller, "requester", &file).await, raised(&caller, "planner", &file).await);
    let attached = async |number: i64, person: &str| {
        caller.call("GET", &format!("/work-orders/{number}"), Some(person), None).await.body["attachments"][0].clone()
    };
    let row = attached(own, "requester").await;
    assert_eq!(
        (&row["name"], &row["by"], &row["may_take_away"]),
        (&json!("crack.png"), &json!("requester"), &json!(true))
    );
    let path = |number: i64, row: &Value| format!("/work-orders/{number}/attachments/{}", row["id"]);
    let theirs = path(others, &attached(others, "planner").await);
    let got = caller.call("GET", &path(own, &row), Some("requester"), None).await;
    assert_eq!((got.status, got.kind.as_str()), (200, "image/jpeg"));
    assert_eq!(caller.call("GET", &theirs, Some("requester"), None).await.status, 403);
    assert_eq!(caller.call("GET", &theirs, Some("viewer"), None).await.status, 403);
    // Nor by the number of another order.
    assert_eq!(caller.call("GET", &path(others, &row), Some("planner"), None).await.status, 404);
    assert_eq!(caller.call("DELETE", &theirs, Some("technician"), None).await.status, 403);
    assert_eq!(caller.call("DELETE", &path(own, &row), Some("requester"), None).await.status, 204);
    assert_eq!(attached(own, "planner").await, Value::Null);
    let back = caller.call("POST", &format!("{}/put-back", path(own, &row)), Some("planner"), None).await;
    assert_eq!((back.status, attached(own, "planner").await["id"].clone()), (204, row["id"].clone()));
    let more = json!({"attachments": [{"file": file, "name": ""}]});
    let refused = caller.call("POST", &format!("/work-orders/{own}/attachments"), Some("planner"), Some(more)).await;
    assert_eq!((refused.status, &refused.body["errors"][0]["field"]), (422, &json!("attachments[0].name")));
}

#[tokio::test]
async fn a_photo_is_not_sent_twice_to_who_has_it_and_a_paper_is_never_shown_in_the_page() {
    let caller = Caller::new().await;
    let number = raised(&caller, "planner", &sent(&caller).await).await;
    let paper = caller.bytes("POST", "/api/v1/files", "application/pdf", b"%PDF-1.7\n<script>".to_vec()).await;
    assert_eq!(paper.status, 201, "{}", paper.body);
    let more = json!({"attachments": [{"file": paper.body["file"], "name": "plan \"1\".pdf"}]});
    assert_eq!(caller.call("POST", &format!("/work-orders/{number}/attachments"), None, Some(more)).await.status, 204);
    let ids: Vec<i64> = caller.call("GET", &format!("/work-orders/{number}"), None, None).await.body["attachments"]
        .as_array()
        .unwrap()
        .iter()
        .map(|row| row["id"].as_i64().unwrap())
        .collect();
    let get = async |id: i64, small: bool, has: Option<&str>| {
        let path = format!("/work-orders/{number}/attachments/{id}?small={small}");
        caller.looked(&path, has.map(|tag| ("if-none-match", tag))).await
    };
    let first = get(ids[0], true, None).await;
    let tag = first.headers()["etag"].to_str().unwrap().to_owned();
    assert_eq!(
        (first.headers()["cache-control"].to_str().unwrap(), first.status().as_u16()),
        ("private, no-cache", 200)
    );
    assert!(image::load_from_memory(&to_bytes(first.into_body(), 1 << 20).await.unwrap()).is_ok());
    assert_eq!(get(ids[0], true, Some(&tag)).await.status(), 304);
    assert_eq!(get(ids[0], false, Some(&tag)).await.status(), 200, "the whole one is another");
    let paper = get(ids[1], false, None).await;
    let said = |name: &str| paper.headers()[name].to_str().unwrap().to_owned();
    assert_eq!(said("content-disposition"), "attachment; filename*=UTF-8''plan%20%221%22%2Epdf");
    assert_eq!(
        (said("content-type").as_str(), said("x-content-type-options").as_str()),
        ("application/pdf", "nosniff")
    );
}

#[tokio::test]
async fn what_is_no_photo_is_refused_by_its_bytes() {
    let caller = Caller::new().await;
    for (kind, bytes, status) in [
        ("image/png", b"<svg xmlns='http://www.w3.org/2000/svg'/>".to_vec(), 422),
        ("text/html", png(), 415),
        ("image/png", vec![0; (24 << 20) + 1], 413),
    ] {
        let answer = caller.bytes("POST", "/api/v1/files", kind, bytes).await;
        assert_eq!(answer.status, status, "{kind}: {}", answer.body);
    }
}

//! A server without a socket, on a data folder of its own.

use axum::{Router, body::Body, http::Request};
use fair_tally::{AppState, Clock, app};
use serde_json::{Value, json};
use std::sync::Arc;
use tally_core::time::Instant;
use tally_store::Store;
use tower::ServiceExt;

pub struct Caller {
    _folder: tempfile::TempDir,
    router: Router,
}

pub struct Answer {
    pub status: u16,
    pub kind: String,
    pub body: Value,
}

impl Caller {
    /// A plant with an asset, a meter, a codebook, and a person of each role named like it.
    pub async fn new() -> Self {
        let folder = tempfile::tempdir().unwrap();
        let now = Instant::parse("2026-03-01T00:00:00Z").unwrap();
        let store = Arc::new(Store::open(folder.path(), now).unwrap());
        let router = app(AppState::new(store, Clock::standing_at(now)));
        let caller = Self { _folder: folder, router };
        let roles = ["engineer", "planner", "technician", "requester", "manager", "viewer", "gateway", "administrator"];
        for role in roles {
            let mail = format!("{role}@plant.example");
            let person = json!({"code": role, "name": role, "role": role, "crew": null, "rate": 5000, "mail": mail});
            caller.made("/people", person).await;
        }
        caller.made("/equipment-classes", json!({"code": "pump", "name": "Pumps"})).await;
        caller.made("/assets", json!({"code": "SITE", "name": "Site", "level": "site"})).await;
        caller
            .made(
                "/assets",
                json!({"code": "P1", "name": "Pump", "level": "equipment", "parent": "SITE", "class": "pump"}),
            )
            .await;
        caller.made("/meters", json!({"code": "BAR", "asset": "P1", "kind": "measurement", "unit": "bar"})).await;
        caller
            .made("/work-orders", json!({"title": "Look", "kind": "inspection", "asset": "P1", "risk_rank": 3}))
            .await;
        caller
    }

    async fn made(&self, path: &str, body: Value) {
        let answer = self.call("POST", path, None, Some(body)).await;
        assert_eq!(answer.status, 201, "{path}: {}", answer.body);
    }

    pub async fn call(&self, method: &str, path: &str, person: Option<&str>, body: Option<Value>) -> Answer {
        let kind = "application/json";
        self.raw(method, &format!("/api/v1{path}"), person, kind, body.map_or_else(String::new, |b| b.to_string()))
            .await
    }

    pub async fn raw(&self, method: &str, path: &str, person: Option<&str>, kind: &str, body: String) -> Answer {
        let mut request = Request::builder().method(method).uri(path).header("content-type", kind);
        if let Some(person) = person {
            request = request.header("x-person", person);
        }
        self.answer(request.body(Body::from(body)).unwrap()).await
    }

    /// The status of a stream that is not read.
    pub async fn opened(&self, path: &str) -> u16 {
        let request = Request::builder().uri(format!("/api/v1{path}")).body(Body::empty()).unwrap();
        self.router.clone().oneshot(request).await.unwrap().status().as_u16()
    }

    pub async fn bytes(&self, method: &str, path: &str, kind: &str, body: Vec<u8>) -> Answer {
        self.accepting("application/json", method, path, kind, body).await
    }

    pub async fn accepting(&self, accept: &str, method: &str, path: &str, kind: &str, body: Vec<u8>) -> Answer {
        let request = Request::builder().method(method).uri(path).header("content-type", kind);
        self.answer(request.header("accept", accept).body(Body::from(body)).unwrap()).await
    }

    async fn answer(&self, request: Request<Body>) -> Answer {
        let answer = self.router.clone().oneshot(request).await.unwrap();
        let status = answer.status().as_u16();
        let kind = answer.headers().get("content-type").map_or("", |v| v.to_str().unwrap()).to_owned();
        let bytes = axum::body::to_bytes(answer.into_body(), usize::MAX).await.unwrap();
        let body = serde_json::from_slice(&bytes)
            .unwrap_or_else(|_| Value::String(String::from_utf8_lossy(&bytes).into_owned()));
        Answer { status, kind, body }
    }
}

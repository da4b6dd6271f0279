//! A server without a socket, on a data folder of its own.

use crate::signing::Signing;
use axum::{
    Router,
    body::Body,
    http::{HeaderValue, Request, Response},
};
use fair_tally::{
    AppState, Clock, app,
    outside::outgoing::{Allowed, Outgoing},
};
use serde_json::{Value, json};
use std::sync::Arc;
use tally_core::ground::time::Instant;
use tally_store::Store;
use tower::ServiceExt;

const HOST: &str = "127.0.0.1:8420";

pub struct Caller {
    _folder: tempfile::TempDir,
    router: Router,
    signing: Signing,
}

pub struct Answer {
    pub status: u16,
    pub kind: String,
    pub body: Value,
}

impl Caller {
    /// A plant with an asset, a meter, a codebook, and a person of each role named like it.
    pub async fn new() -> Self {
        Self::with_store().await.0
    }

    /// As [`Self::new`], with the store behind it, to tear something in it.
    pub async fn with_store() -> (Self, Arc<Store>) {
        let folder = tempfile::tempdir().unwrap();
        let now = Instant::parse("2026-03-01T00:00:00Z").unwrap();
        let store = Arc::new(Store::open(folder.path(), now).unwrap());
        let mut state = AppState::new(store.clone(), Clock::standing_at(now));
        state.outgoing = Outgoing::to(Allowed::new(vec!["127.0.0.0/8".parse().unwrap()]));
        let caller = Self::over(state, folder);
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
        let plan = json!({"code": "P1-UP", "name": "Look at P1", "asset": "P1", "status": "active", "every_days": "90",
            "first_due": "2026-12-04", "estimated_hours": "2"});
        let set_up = caller.call("POST", "/master/upkeep-plans", None, Some(json!({"rows": [{"values": plan}]}))).await;
        assert_eq!(set_up.body["added"], 1, "{}", set_up.body);
        let sheet =
            json!({"title": "Look at a pump", "status": "active", "permits": ["Lock it"], "steps": [{"text": "Look"}]});
        let put = caller.call("PUT", "/job-sheets/look", None, Some(sheet)).await;
        assert_eq!(put.status, 200, "{}", put.body);
        (caller, store)
    }

    /// Over a server of one's own.
    pub fn over(state: AppState, folder: tempfile::TempDir) -> Self {
        Self { _folder: folder, router: app(state.clone()), signing: Signing::on(state) }
    }

    /// An answer as it comes, to a request without a body and with just these headers: nobody is signed in.
    pub async fn with(&self, headers: &[(&str, &str)], method: &str, path: &str) -> Response<Body> {
        let mut request = Request::builder().method(method).uri(path);
        for (name, value) in headers {
            request = request.header(*name, *value);
        }
        if !headers.iter().any(|(name, _)| *name == "host") {
            request = request.header("host", HOST);
        }
        self.router.clone().oneshot(request.body(Body::empty()).unwrap()).await.unwrap()
    }

    /// The header of that person's session.
    pub fn cookie(&self, person: Option<&str>) -> String {
        self.signing.cookie(person)
    }

    /// As nobody: with a body of JSON, and the headers that are given.
    pub async fn unsigned(&self, method: &str, path: &str, headers: &[(&str, &str)], body: Value) -> Response<Body> {
        let mut request = Request::builder().method(method).uri(format!("/api/v1{path}")).header("host", HOST);
        for (name, value) in headers {
            request = request.header(*name, *value);
        }
        let (kind, body) =
            if body.is_null() { (None, String::new()) } else { (Some("application/json"), body.to_string()) };
        if let Some(kind) = kind {
            request = request.header("content-type", kind);
        }
        self.router.clone().oneshot(request.body(Body::from(body)).unwrap()).await.unwrap()
    }

    /// As somebody whom the header names in its own way.
    pub async fn as_header(&self, name: &str, value: HeaderValue, method: &str, path: &str) -> Response<Body> {
        let request = Request::builder().method(method).uri(path).header("host", HOST).header(name, value);
        self.router.clone().oneshot(request.body(Body::empty()).unwrap()).await.unwrap()
    }

    async fn made(&self, path: &str, body: Value) {
        let answer = self.call("POST", path, None, Some(body)).await;
        assert_eq!(answer.status, 201, "{path}: {}", answer.body);
    }

    /// A body is JSON; a text goes as it is, as a picture or a file of rows.
    pub async fn call(&self, method: &str, path: &str, person: Option<&str>, body: Option<Value>) -> Answer {
        let (kind, body) = match body {
            Some(Value::String(text)) => {
                let is_picture = path.ends_with("/picture") || path.ends_with("/files");
                (if is_picture { "image/png" } else { "text/csv" }, text)
            }
            Some(body) => ("application/json", body.to_string()),
            None => ("application/json", String::new()),
        };
        self.raw(method, &format!("/api/v1{path}"), person, kind, body).await
    }

    pub async fn raw(&self, method: &str, path: &str, person: Option<&str>, kind: &str, body: String) -> Answer {
        let mut request = Request::builder().method(method).uri(path).header("host", HOST);
        if !kind.is_empty() {
            request = request.header("content-type", kind);
        }
        request = request.header("cookie", self.signing.cookie(person));
        let answer = self.answer(request.body(Body::from(body)).unwrap()).await;
        // Sessions end by their own routes, and by time.
        if path.contains("/session") || path.ends_with("/clock") {
            self.signing.forget();
        }
        answer
    }

    /// A write in JSON under a key of its client's.
    pub async fn keyed(&self, key: &str, person: Option<&str>, method: &str, path: &str, body: String) -> Answer {
        let request = Request::builder().method(method).uri(path).header("host", HOST).header("idempotency-key", key);
        let request = request.header("content-type", "application/json");
        let request = request.header("cookie", self.signing.cookie(person));
        self.answer(request.body(Body::from(body)).unwrap()).await
    }

    /// The status of a stream that is not read.
    pub async fn opened(&self, path: &str, person: &str) -> u16 {
        let request = Request::builder().uri(format!("/api/v1{path}")).header("host", HOST);
        let request = request.header("cookie", self.signing.cookie(Some(person))).body(Body::empty()).unwrap();
        self.router.clone().oneshot(request).await.unwrap().status().as_u16()
    }

    pub async fn bytes(&self, method: &str, path: &str, kind: &str, body: Vec<u8>) -> Answer {
        self.accepting("application/json", method, path, kind, body).await
    }

    pub async fn accepting(&self, accept: &str, method: &str, path: &str, kind: &str, body: Vec<u8>) -> Answer {
        let request = Request::builder().method(method).uri(path).header("host", HOST).header("content-type", kind);
        let request = request.header("cookie", self.signing.cookie(None));
        self.answer(request.header("accept", accept).body(Body::from(body)).unwrap()).await
    }

    /// What is looked at, whole, with a header of its own.
    pub async fn looked(&self, path: &str, header: Option<(&str, &str)>) -> Response<Body> {
        let mut request = Request::builder().uri(format!("/api/v1{path}")).header("host", HOST);
        if let Some((name, value)) = header {
            request = request.header(name, value);
        }
        let request = request.header("cookie", self.signing.cookie(None)).body(Body::empty()).unwrap();
        self.router.clone().oneshot(request).await.unwrap()
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

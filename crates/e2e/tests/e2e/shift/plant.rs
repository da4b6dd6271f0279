//! A pump that has all that a job can need.

use anyhow::{Context, Result, ensure};
use serde_json::{Value, json};
use tally_e2e::Server;

pub const OPENING: &str = "2026-03-02T06:00:00Z";

/// Sets up a pump with a meter that has a limit, what the storeroom keeps for it, a job sheet that needs both, and a check sheet.
pub async fn plant(server: &Server) -> Result<()> {
    server.post("/assets", json!({"code": "U1", "name": "Unit one", "level": "unit"})).await?;
    let pump = json!({"code": "P1", "name": "Pump", "level": "equipment", "parent": "U1", "class": "pump"});
    server.post("/equipment-classes", json!({"code": "pump", "name": "Pumps"})).await?;
    server.post("/assets", pump).await?;
    let crew = json!({"code": "fit", "name": "Fitters", "department": "Works", "weekly_hours": 40.0});
    server.post("/crews", crew).await?;
    for (code, name) in [("tess", "Tess Field"), ("tom", "Tom Dale")] {
        let person = json!({"code": code, "name": name, "role": "technician", "rate": 6_000, "crew": "fit"});
        server.post("/people", person).await?;
    }
    server.post("/people", json!({"code": "rae", "name": "Rae Ash", "role": "requester"})).await?;
    let meter = json!({"code": "BAR", "asset": "P1", "name": "Pressure", "kind": "measurement", "unit": "bar"});
    server.post("/meters", meter).await?;
    let rung = json!({"side": "low", "severity": "serious", "setpoint": 5.0, "deadband": 0.2, "on_delay_seconds": 0,
        "off_delay_seconds": 0, "response": {"kind": "raise", "title": "Find out why the pressure is low",
            "work_kind": "condition_based", "risk_rank": 2}});
    server.put("/meters/BAR/ladder", json!({"reason": "first", "raise_interval_seconds": 0, "rungs": [rung]})).await?;
    let sheet = json!({"title": "Renew the seal", "status": "active", "trade": "Fitter",
        "steps": [{"text": "Drain it", "hours": 0.5}, {"text": "Renew the seal", "hours": 1.0, "meters": ["BAR"]}],
        "parts": [{"item": "Seal kit", "quantity": 2.0}]});
    server.put("/job-sheets/SEAL", sheet).await?;
    server
        .import(
            "storeroom",
            "code,name,place,stock,price,fits\nK-1,Seal kit,C 03,5,40.00,P1\nK-2,Grease,A 01,9,3.50,\n".into(),
        )
        .await?;
    let book = json!({"name": "Pumps", "class": "pump", "problems": [{"code": "LEAK", "name": "Leak", "below": [
        {"code": "SEAL", "name": "Seal worn", "below": [{"code": "NEW", "name": "Seal renewed", "renews": true}]}]}]});
    let look = json!({"title": "Look at the pump", "status": "active", "questions": [
        {"key": "dry", "text": "Is it dry?", "asks": {"kind": "pass_fail"}, "compulsory": true,
            "rules": [{"is": {"when": "among", "values": ["fail"]}, "title": "Dry the pump", "work_kind": "corrective_deferred",
                "risk_rank": 3}]},
        {"key": "bar", "text": "Pressure", "asks": {"kind": "reading", "meter": "BAR"}},
        {"key": "seen", "text": "A photo of it", "asks": {"kind": "photo"}, "compulsory": true}]});
    server.put("/check-sheets/LOOK", look).await?;
    server.put("/codebooks/pump", book).await.map(drop)
}

pub async fn raise(server: &Server, title: &str, start: &str, more: Value) -> Result<i64> {
    let mut new = json!({"title": title, "kind": "corrective_deferred", "asset": "P1", "risk_rank": 3, "state": "ready",
        "crew": "fit", "assignee": "tess", "estimated_hours": 1.5});
    new.as_object_mut().context("an object")?.extend(more.as_object().context("an object")?.clone());
    let number = server.post("/work-orders", new).await?["number"].as_i64().context("a number")?;
    let schedule = Some(json!({ "scheduled_start": start }));
    let (status, told) = server.send("PATCH", &format!("/work-orders/{number}"), schedule).await?;
    ensure!(status == 200, "{told}");
    Ok(number)
}

//! Each role finds what it sees, and nothing of the rest.

use super::{OPENING, two_lifts};
use anyhow::Result;
use serde_json::json;
use tally_e2e::{Browser, Server};

#[tokio::test]
async fn each_role_finds_only_what_it_sees() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    two_lifts(&server).await?;
    for (code, role) in [("rita", "requester"), ("vito", "viewer"), ("tess", "technician")] {
        server.post("/people", json!({"code": code, "name": code, "role": role, "crew": null, "rate": null})).await?;
    }
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/").await?;
    for (code, workspaces) in [
        ("admin", vec!["Watch", "Work", "Shift", "Codes", "Tally", "Reports", "Setup"]),
        ("vito", vec!["Watch", "Codes", "Tally"]),
        ("tess", vec!["Watch", "Work", "Shift", "Codes", "Reports"]),
        ("rita", vec!["Work", "Codes", "Reports"]),
    ] {
        page.sign_in(&server, code).await?;
        page.go("/codes").await?;
        page.see_count("nav[aria-label=Workspaces] a", workspaces.len()).await?;
        for workspace in workspaces {
            page.see("nav[aria-label=Workspaces]", workspace).await?;
        }
    }
    // What the requester raises is all that the requester's list holds; the motor's work is another's.
    page.go("/work").await?;
    page.see_count("[data-test=order]", 0).await?;
    page.go("/work/1001").await?;
    page.see("main", "work order 1001 is not yours to see").await?;
    page.go("/tally").await?;
    page.see("main", "a requester may not look at the tally").await?;
    Ok(())
}

/// An administrator gives a planner one lift: that is all there is to them, until they are given the other as well.
#[tokio::test]
async fn who_is_given_a_lift_finds_nothing_of_the_other() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    two_lifts(&server).await?;
    let order = json!({"title": "Grease the drive", "kind": "improvement", "asset": "DRIVE-B", "risk_rank": 3});
    server.post("/work-orders", order).await?;
    server
        .post("/people", json!({"code": "pam", "name": "Pam", "role": "planner", "crew": null, "rate": null}))
        .await?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    let give = async |scope: &str| -> Result<()> {
        page.go("/setup/people/pam").await?;
        page.fill("[name=scope]", scope).await?;
        page.press("[data-test=save-row]").await?;
        Ok(())
    };
    give("LIFT-X").await?;
    page.see("main [role=alert]", "there is no asset \"LIFT-X\"").await?;
    give("LIFT-B").await?;
    page.see("[data-test=changes]", "LIFT-B").await?;
    page.sign_in(&server, "pam").await?;
    page.go("/account").await?;
    page.see("[data-test=scope]", "below Lift B, and nothing else").await?;
    page.see("aside[aria-label='Asset tree']", "Your part of").await?;
    page.see_count("[role=treeitem]", 2).await?;
    page.go("/work").await?;
    page.see_count("[data-test=order]", 1).await?;
    page.see("[data-test=order]", "Grease the drive").await?;
    page.go("/work/1001").await?;
    page.see("main", "there is no work order \"1001\" in your part of the plant").await?;
    page.go("/tally?scope=LIFT-A").await?;
    page.see("main", "there is no asset \"LIFT-A\" in your part of the plant").await?;
    page.go("/tally").await?;
    page.find("[data-test=tally-LIFT-B]").await?;
    page.sign_in(&server, "admin").await?;
    give("LIFT-A | LIFT-B").await?;
    page.see("[data-test=changes]", "LIFT-A | LIFT-B").await?;
    page.sign_in(&server, "pam").await?;
    // Of several she looks at one at a time, the first at first.
    page.go("/tally").await?;
    page.see_address("scope=LIFT-A").await?;
    page.find("[data-test=tally-LIFT-A]").await?;
    page.see("aside[aria-label='Asset tree']", "Your parts of").await?;
    page.go("/work/1001").await?;
    page.find("[data-test=state]").await?;
    Ok(())
}

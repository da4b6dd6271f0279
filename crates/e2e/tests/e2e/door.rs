//! The door of a plant's network: over TLS with the plant's own authority, behind a proxy, and the first day of an empty folder
//! from the printed code to a technician's phone.

use anyhow::{Context, Result, bail, ensure};
use rcgen::{BasicConstraints, CertificateParams, CertifiedIssuer, IsCa, KeyPair};
use serde_json::{Value, json};
use std::{
    path::{Path, PathBuf},
    process::Command,
    time::Duration,
};
use tally_e2e::{Browser, PASSWORD, Server, binary, client};

const OPENING: &str = "2026-03-02T09:00:00Z";

/// A plant's own certificate authority, and what it signed for the server.
struct Authority {
    issuer: CertifiedIssuer<'static, KeyPair>,
    certificate: PathBuf,
    key: PathBuf,
}

impl Authority {
    fn new(folder: &Path) -> Result<Self> {
        let mut params = CertificateParams::new(vec![])?;
        params.is_ca = IsCa::Ca(BasicConstraints::Unconstrained);
        let issuer = CertifiedIssuer::self_signed(params, KeyPair::generate()?)?;
        let authority = Self { issuer, certificate: folder.join("tally.pem"), key: folder.join("tally.key") };
        authority.sign()?;
        Ok(authority)
    }

    /// Signs a new certificate for the server, with a new key; its bytes.
    fn sign(&self) -> Result<Vec<u8>> {
        let key = KeyPair::generate()?;
        let names = vec!["localhost".to_owned(), "127.0.0.1".to_owned()];
        let signed = CertificateParams::new(names)?.signed_by(&key, &self.issuer)?;
        std::fs::write(&self.key, key.serialize_pem())?;
        std::fs::write(&self.certificate, signed.pem())?;
        Ok(signed.der().to_vec())
    }

    /// A client that trusts this authority, as a phone does on which it was installed.
    fn trusted_by(&self) -> Result<reqwest::Client> {
        drop(client());
        let root = reqwest::Certificate::from_pem(self.issuer.pem().as_bytes())?;
        Ok(reqwest::Client::builder().tls_certs_only([root]).tls_info(true).build()?)
    }
}

/// What a server says that does not start.
fn refused(data: &Path, arguments: &[&str]) -> Result<String> {
    let output =
        Command::new(binary(false)).args(["serve", "--port", "0", "--data"]).arg(data).args(arguments).output()?;
    ensure!(!output.status.success(), "it started with {arguments:?}");
    Ok(String::from_utf8_lossy(&output.stderr).into_owned())
}

#[tokio::test]
async fn other_machines_are_answered_over_tls_alone_and_a_new_certificate_is_taken_as_it_comes() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let data = folder.path().join("data");
    let open = refused(&data, &["--listen", "0.0.0.0"])?;
    ensure!(open.contains("other machines would send passwords in the open: give --tls-cert and --tls-key"), "{open}");
    let missing = folder.path().join("none.pem").display().to_string();
    let unread = refused(&data, &["--tls-cert", &missing, "--tls-key", &missing])?;
    ensure!(unread.contains("none.pem"), "{unread}");
    let authority = Authority::new(folder.path())?;
    let (certificate, key) = (authority.certificate.display().to_string(), authority.key.display().to_string());
    let arguments = ["--tls-cert", &certificate, "--tls-key", &key, "--listen", "0.0.0.0"];
    let server = Server::serve_with(&data, OPENING, &arguments, authority.trusted_by()?)?;
    ensure!(server.address.starts_with("https://0.0.0.0:"), "{}", server.address);
    let server = server.asked_at("127.0.0.1");

    let cookie = server.cookie().await?;
    ensure!(cookie.starts_with("__Host-fair-tally="), "{cookie}");
    ensure!(server.get("/people").await?["acting"] == "admin");
    let url = format!("{}/api/v1/session", server.address);
    let signed = json!({"person": "admin", "password": PASSWORD}).to_string();
    let enter = server.client().post(&url).header("content-type", "application/json").body(signed).send().await?;
    let set = enter.headers()["set-cookie"].to_str()?;
    ensure!(set.ends_with("; Path=/; Max-Age=2592000; HttpOnly; SameSite=Lax; Secure"), "{set}");
    ensure!(enter.headers()["strict-transport-security"] == "max-age=31536000");
    ensure!(client().get(&url).send().await.is_err(), "who does not know the authority goes no further");
    let plain = url.replace("https:", "http:");
    ensure!(client().get(&plain).send().await.is_err(), "nothing is answered in the open");

    let served = async || -> Result<Vec<u8>> {
        // A connection of its own, which shows the certificate anew.
        let answer = authority.trusted_by()?.get(&url).send().await?;
        let info = answer.extensions().get::<reqwest::tls::TlsInfo>().context("a certificate")?;
        Ok(info.peer_certificate().context("a certificate")?.to_vec())
    };
    std::fs::write(&authority.key, "no key")?;
    let renewed = authority.sign()?;
    for _ in 0..200 {
        if served().await? == renewed {
            ensure!(server.get("/people").await?["acting"] == "admin", "whoever was signed in still is");
            return Ok(());
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    bail!("the new certificate was never served")
}

#[tokio::test]
async fn behind_a_proxy_the_address_is_what_that_proxy_says_and_nobody_elses_word_counts() -> Result<()> {
    let folder = tempfile::tempdir()?;
    for (proxy, said, seen) in [
        ("127.0.0.1", "198.51.100.7, 203.0.113.9", "203.0.113.9"),
        ("127.0.0.1", "nonsense", "127.0.0.1"),
        ("192.0.2.1", "203.0.113.9", "127.0.0.1"),
    ] {
        let data = folder.path().join(format!("{proxy}-{}", said.len()));
        let server = Server::serve_with(&data, OPENING, &["--behind-proxy", proxy], client())?;
        server.cookie().await?;
        let body = json!({"person": "admin", "password": PASSWORD}).to_string();
        let request = client().post(format!("{}/api/v1/session", server.address)).header("x-forwarded-for", said);
        let entered = request.header("content-type", "application/json").body(body).send().await?;
        ensure!(entered.headers()["set-cookie"].to_str()?.ends_with("; Secure"), "the proxy has TLS");
        let sessions = server.get("/sessions").await?["sessions"].clone();
        let addresses = sessions.as_array().context("sessions")?.iter().map(|one| one["address"].clone());
        ensure!(addresses.clone().any(|address| address == seen), "{said} from {proxy}: {sessions}");
        // What is counted is no longer for whoever is on the machine: everybody comes from there now.
        let metrics = |key: Option<String>| {
            let asked = client().get(format!("{}/metrics", server.address));
            match key {
                Some(key) => asked.bearer_auth(key),
                None => asked,
            }
        };
        ensure!(metrics(None).send().await?.status() == 401);
        for (role, status) in [("gateway", 403), ("manager", 200)] {
            let key = server.key(&format!("{role}-key"), role).await?;
            ensure!(metrics(Some(key)).send().await?.status() == status, "{role}");
        }
    }
    Ok(())
}

/// The first day: the printed code, an administrator, a technician on a phone who is made inactive and is out, a key that is
/// revoked in the middle of sending, and a backup that is restored elsewhere.
#[tokio::test(flavor = "multi_thread")]
async fn from_the_printed_code_to_a_technician_who_is_out_again() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let data = folder.path().join("data");
    let server = Server::serve(&data, OPENING)?;
    let code = server.first_code.clone().context("no code was printed")?;
    let desk = Browser::open(1280, 800).await?;
    let page = desk.at(&server.address);
    page.go("/setup/people").await?;
    page.see("[data-test=first-start]", "Nobody can sign in here yet.").await?;
    page.fill("[name=code]", "0000-0000-0000").await?;
    page.fill("[name=new-password]", PASSWORD).await?;
    page.press("[data-test=sign-in]").await?;
    page.see("form [role=alert]", "the code is not right").await?;
    page.fill("[name=code]", &code).await?;
    page.press("[data-test=sign-in]").await?;
    // The address that was asked for is what comes after signing in.
    page.see("h1", "1 person").await?;
    page.go("/setup/people/new").await?;
    for (field, text) in [("code", "tess"), ("name", "Tess Marsh"), ("role", "technician")] {
        page.fill(&format!("form.fields [name={field}]"), text).await?;
    }
    page.press("[data-test=save-row]").await?;
    page.press("[data-test=reset-code]").await?;
    let shown = page.see("[data-test=shown-once]", "The code for Tess Marsh").await?;
    let code = shown.lines().find(|line| line.len() == 14 && line.matches('-').count() == 2).context("a code")?;

    let phone = Browser::open(390, 844).await?;
    let hers = phone.at(&server.address);
    hers.go("/work").await?;
    hers.press("[data-test=have-code]").await?;
    hers.fill("[name=username]", "TESS").await?;
    hers.fill("[name=code]", &code.to_lowercase()).await?;
    hers.fill("[name=new-password]", "short").await?;
    hers.press("[data-test=sign-in]").await?;
    hers.see("form .wrong", "has 5 characters; it takes 12 or more").await?;
    hers.fill("[name=new-password]", PASSWORD).await?;
    hers.press("[data-test=sign-in]").await?;
    hers.see("[data-test=totals]", "open work").await?;

    // Made inactive at the desk, she is out on the phone without a press.
    page.go("/setup/people/tess").await?;
    page.fill("form.fields [name=active]", "no").await?;
    page.press("[data-test=save-row]").await?;
    hers.see("dialog h2", "Your session has ended").await?;
    hers.fill("dialog [name=password]", PASSWORD).await?;
    hers.press("dialog [data-test=sign-in]").await?;
    hers.see("dialog [role=alert]", "no active person has this code with this password").await?;

    key_revoked_in_the_middle(&page, &server).await?;
    for line in ["signed in", "was refused", "revoked"] {
        page.go("/setup/changes").await?;
        page.see("main", line).await?;
    }
    let backup = folder.path().join("backup.zip");
    let run = |arguments: &[&str], more: &[&Path]| -> Result<()> {
        let output = Command::new(binary(false)).args(arguments).args(more).output()?;
        ensure!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
        Ok(())
    };
    let elsewhere = folder.path().join("elsewhere");
    run(&["backup", "--data"], &[&data, &backup])?;
    run(&["restore", "--data"], &[&elsewhere, &backup])?;
    let restored = Server::serve(&elsewhere, OPENING)?;
    ensure!(restored.first_code.is_none(), "passwords came along");
    ensure!(!restored.is_signed_in(&server.cookie().await?).await?, "a session of before does not come back");
    let (status, _) = restored.send("GET", "/people", None).await?;
    ensure!(status == 200, "the administrator signs in with the same password");
    Ok(())
}

async fn key_revoked_in_the_middle(page: &tally_e2e::Page, server: &Server) -> Result<()> {
    server.post("/assets", json!({"code": "P1", "name": "Pump", "level": "equipment"})).await?;
    server.post("/meters", json!({"code": "BAR", "asset": "P1", "kind": "measurement", "unit": "bar"})).await?;
    page.go("/setup/keys").await?;
    page.press("[data-test=add-key]").await?;
    page.fill("[name=key-name]", "north-gateway").await?;
    page.press("[data-test=make-key]").await?;
    let shown = page.see("[data-test=shown-once]", "fairtally_").await?;
    let key = shown.lines().find(|line| line.starts_with("fairtally_")).context("a key")?.to_owned();
    page.press("[data-test=secret-seen]").await?;
    page.see_count("[data-test=shown-once]", 0).await?;
    let sent = |n: i64| {
        let at = format!("2026-03-02T08:{:02}:{:02}Z", n / 60, n % 60);
        let request = client().post(format!("{}/api/v1/readings?source=gateway", server.address));
        let rows = json!([{"meter": "BAR", "at": at, "value": 1}]).to_string();
        request.bearer_auth(&key).header("content-type", "application/json").body(rows).send()
    };
    for n in 0..20 {
        ensure!(sent(n).await?.status() == 200);
    }
    page.press_text("[data-test=key]", "Revoke").await?;
    page.press_text(".ending", "Revoke it").await?;
    page.see("[data-test=key]", "revoked 2 Mar 2026").await?;
    let refused = sent(20).await?;
    ensure!(refused.status() == 401);
    let told: Value = serde_json::from_str(&refused.text().await?)?;
    ensure!(told["detail"] == "the key is not known here, or does not work any more", "{told}");
    ensure!(server.get("/meters/BAR").await?["readings"] == 20, "what was acknowledged is kept, and no more");
    Ok(())
}

/// Where the password was given long ago, it is asked for once more above the form, and the form goes through as it was.
#[tokio::test]
async fn a_password_given_long_ago_is_asked_for_again_and_nothing_typed_is_lost() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    let browser = Browser::open(1280, 800).await?;
    let page = browser.page(&server).await?;
    page.go("/setup/people/new").await?;
    page.fill("form.fields [name=code]", "pia").await?;
    page.fill("form.fields [name=name]", "Pia Marsh").await?;
    page.fill("form.fields [name=role]", "planner").await?;
    server.put("/clock", json!({"now": "2026-03-02T09:16:00Z"})).await?;
    page.press("[data-test=save-row]").await?;
    page.see("dialog h2", "Your password again").await?;
    page.fill("[name=password-again]", "not the password").await?;
    page.press("[data-test=again]").await?;
    page.see("dialog .wrong", "is not yours").await?;
    page.fill("[name=password-again]", PASSWORD).await?;
    page.press("[data-test=again]").await?;
    page.see("article h1", "Pia Marsh").await?;
    ensure!(server.get("/people").await?.to_string().contains("Pia Marsh"));
    Ok(())
}

/// What a device answers is taken once, and only as it was signed: the statuses of an answer, of the same again, and of one whose
/// signature was changed.
const TRIED: &str = "const post = (path, body) => fetch('/api/v1/session' + path, {method: 'POST',
    headers: {'content-type': 'application/json'}, body: JSON.stringify(body)})
  const sign = async () => {
    const asked = await (await post('/passkey/ask', {})).json()
    const publicKey = PublicKeyCredential.parseRequestOptionsFromJSON(asked)
    return (await navigator.credentials.get({publicKey})).toJSON()
  }
  return (async () => {
    const credential = await sign()
    const statuses = []
    for (const _ of [1, 2]) statuses.push((await post('/passkey', {credential})).status)
    const changed = await sign()
    const last = changed.response.signature.at(-3) === 'A' ? 'B' : 'A'
    changed.response.signature = changed.response.signature.slice(0, -3) + last + changed.response.signature.slice(-2)
    statuses.push((await post('/passkey', {credential: changed})).status)
    return statuses.join()
  })()";

/// A passkey is made, signs in without a password, stands for the password where it is asked for again, and signs nobody in once
/// it is taken away. The device is the browser's own.
#[tokio::test]
async fn a_passkey_signs_in_until_it_is_taken_away() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    let browser = Browser::open(1280, 800).await?;
    // By its number a server has no passkeys.
    let by_number = browser.at(&server.address);
    by_number.sign_in(&server, "admin").await?;
    by_number.go("/account").await?;
    by_number.find("[name=new-password]").await?;
    by_number.see_count("section[aria-label=Passkeys]", 0).await?;

    let page = browser.at(&server.address.replace("127.0.0.1", "localhost"));
    page.hold_passkeys().await?;
    page.sign_in(&server, "admin").await?;
    page.go("/account").await?;
    page.press("[data-test=add-passkey]").await?;
    page.fill("[name=passkey-name]", "Desk").await?;
    page.press("[data-test=make-passkey]").await?;
    page.see("[data-test=passkey]", "never").await?;
    // A device holds one for each person.
    page.press("[data-test=add-passkey]").await?;
    page.fill("[name=passkey-name]", "Desk again").await?;
    page.press("[data-test=make-passkey]").await?;
    page.see("form[aria-label=Passkey] [role=alert]", "holds a passkey of yours already").await?;

    page.press("[data-test=person]").await?;
    page.press("[data-test=sign-out]").await?;
    page.press("[data-test=by-passkey]").await?;
    page.see("[data-test=passkey]", "now").await?;
    ensure!(page.script(TRIED).await? == "200,401,401");

    // A passkey is as good as the password where that is asked for again.
    server.put("/clock", json!({"now": "2026-03-02T10:16:00Z"})).await?;
    page.go("/setup/people/new").await?;
    for (field, text) in [("code", "pia"), ("name", "Pia Marsh"), ("role", "planner")] {
        page.fill(&format!("form.fields [name={field}]"), text).await?;
    }
    page.press("[data-test=save-row]").await?;
    page.press("[data-test=again-by-passkey]").await?;
    page.see("article h1", "Pia Marsh").await?;

    page.go("/account").await?;
    page.press_text("[data-test=passkey]", "Remove it").await?;
    page.press(".ending .el-button--primary").await?;
    page.see_count("[data-test=passkey]", 0).await?;
    page.press("[data-test=person]").await?;
    page.press("[data-test=sign-out]").await?;
    page.press("[data-test=by-passkey]").await?;
    page.see("form [role=alert]", "no active person signs in with this passkey").await?;
    page.fill("[name=username]", "admin").await?;
    page.fill("[name=password]", PASSWORD).await?;
    page.press("[data-test=sign-in]").await?;
    page.see("main h1", "Administrator").await?;
    Ok(())
}

/// A phone that two technicians share: an administrator sets it up, each changes places by a number, and a password works too.
#[tokio::test]
async fn two_people_change_places_at_a_shared_phone() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let server = Server::serve(folder.path(), OPENING)?;
    for (code, name) in [("tess", "Tess Marsh"), ("wil", "Wil Reed")] {
        let person = json!({"code": code, "name": name, "role": "technician", "crew": null, "rate": null});
        server.post("/people", person).await?;
    }
    let desk = Browser::open(1280, 800).await?;
    let page = desk.page(&server).await?;
    for (code, number) in [("tess", "518203"), ("wil", "640193")] {
        page.sign_in(&server, code).await?;
        page.go("/account").await?;
        page.see("[data-test=pin-stands]", "You have no number").await?;
        page.press("[data-test=set-pin]").await?;
        page.fill("[name=pin]", "123456").await?;
        page.press("[data-test=save-pin]").await?;
        page.see("form[aria-label=Number] .wrong", "among the first that anybody would try").await?;
        page.fill("[name=pin]", number).await?;
        page.press("[data-test=save-pin]").await?;
        page.see("[data-test=pin-stands]", "You have a number").await?;
    }

    let phone = Browser::open(390, 844).await?;
    let shared = phone.page(&server).await?;
    shared.go("/setup/keys").await?;
    shared.press("[data-test=share-device]").await?;
    shared.fill("[name=device-name]", "Hall phone").await?;
    shared.press("[data-test=make-device]").await?;
    shared.see("[data-test=this-device]", "as Hall phone").await?;
    shared.press("[data-test=person]").await?;
    shared.press("[data-test=sign-out]").await?;
    shared.press("[data-test=sharer-tess]").await?;
    shared.fill("[name=pin]", "640193").await?;
    shared.press("[data-test=by-pin]").await?;
    shared.see("form[aria-label='Your number'] [role=alert]", "this number is not right").await?;
    shared.fill("[name=pin]", "518203").await?;
    shared.press("[data-test=by-pin]").await?;
    shared.see("[data-test=person]", "Tess Marsh").await?;
    shared.press("[data-test=person]").await?;
    shared.press("[data-test=sign-out]").await?;
    shared.press("[data-test=sharer-wil]").await?;
    shared.fill("[name=pin]", "640193").await?;
    shared.press("[data-test=by-pin]").await?;
    shared.see("[data-test=person]", "Wil Reed").await?;
    shared.press("[data-test=person]").await?;
    shared.press("[data-test=sign-out]").await?;
    shared.press("[data-test=by-password]").await?;
    shared.fill("[name=username]", "tess").await?;
    shared.fill("[name=password]", PASSWORD).await?;
    shared.press("[data-test=sign-in]").await?;
    shared.see("[data-test=person]", "Tess Marsh").await?;
    // At the desk, which nobody shared, there are no names to choose.
    page.press("[data-test=person]").await?;
    page.press("[data-test=sign-out]").await?;
    page.find("[name=username]").await?;
    page.see_count("[data-test=sharer-tess]", 0).await?;
    Ok(())
}

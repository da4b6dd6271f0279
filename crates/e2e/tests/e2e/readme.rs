//! The README followed word by word, in order, on a folder of one's own.

use anyhow::{Context, Result, ensure};
use std::{
    net::{TcpListener, TcpStream},
    os::unix::fs::symlink,
    path::{Path, PathBuf},
    process::{Child, Command, Stdio},
    thread,
    time::Duration,
};
use tally_e2e::binary;

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

/// The commands of all fenced blocks of a text, with lines that go on put together and remarks taken away.
fn commands(text: &str) -> Vec<String> {
    let blocks = text.split("```").skip(1).step_by(2).map(|block| block.replace("\\\n", " "));
    let lines: Vec<String> = blocks.flat_map(|block| block.lines().map(String::from).collect::<Vec<_>>()).collect();
    let bare = lines.iter().map(|line| line.split(" #").next().unwrap_or_default().trim().to_owned());
    bare.filter(|line| !line.is_empty()).collect()
}

/// Processes that a reader would leave running in another window.
struct Windows(Vec<Child>);

impl Drop for Windows {
    fn drop(&mut self) {
        for child in &mut self.0 {
            child.kill().ok();
            child.wait().ok();
        }
    }
}

fn free_port() -> Result<u16> {
    Ok(TcpListener::bind("127.0.0.1:0")?.local_addr()?.port())
}

fn until_answered(port: u16) -> Result<()> {
    for _ in 0..200 {
        if TcpStream::connect(("127.0.0.1", port)).is_ok() {
            return Ok(());
        }
        thread::sleep(Duration::from_millis(50));
    }
    anyhow::bail!("nobody listens at {port}")
}

/// Follows a text in a folder of its own, and says what each command told that was no server.
fn followed(text: &str, here: &Path) -> Result<Vec<String>> {
    std::fs::create_dir_all(here.join("target/release"))?;
    symlink(binary(false), here.join("target/release/fair-tally"))?;
    symlink(root().join("samples").canonicalize()?, here.join("samples"))?;
    let (server, receiver) = (free_port()?, free_port()?);
    let tasks = std::fs::read_to_string(root().join("xtask/src/main.rs"))?;
    let mut windows = Windows(Vec::new());
    let mut done = Vec::new();
    let mut exported: Vec<(String, String)> = Vec::new();
    for command in commands(&std::fs::read_to_string(root().join(text))?) {
        if let Some(task) = command.strip_prefix("cargo xtask ") {
            // What this test is a part of, and what takes minutes: that there is such a command.
            let name = task.split(' ').next().unwrap_or_default();
            let variant: String = name[..1].to_uppercase() + &name[1..];
            ensure!(tasks.contains(&format!("Task::{variant}")), "there is no cargo xtask {name}");
            continue;
        }
        let line = command.replace("8420", &server.to_string()).replace("DIR", "data");
        let line = if line.contains(" receiver ") { format!("{line} --port {receiver}") } else { line };
        let mut shell = Command::new("bash");
        // What is exported holds for the lines after it.
        let name = line.strip_prefix("export ").and_then(|rest| rest.split('=').next());
        let script = name.map_or_else(|| format!("exec {line}"), |name| format!("{line}; printf %s \"${name}\""));
        shell.args(["-c", &script]).current_dir(here).env("RUST_BACKTRACE", "1");
        shell.envs(exported.iter().cloned());
        shell.env("FAIR_TALLY_URL", format!("http://127.0.0.1:{server}"));
        if line.contains(" serve ") || line.contains(" receiver ") {
            shell.stdout(Stdio::null()).stderr(Stdio::null());
            windows.0.push(shell.spawn()?);
            until_answered(if line.contains(" serve ") { server } else { receiver })?;
        } else {
            let output = shell.output()?;
            let told = [output.stdout, output.stderr].concat();
            let told = String::from_utf8_lossy(&told).into_owned();
            ensure!(!told.contains("stack backtrace") && !told.contains("Caused by"), "{line}\n{told}");
            // The samples have rows that are wrong on purpose, and only those are refused.
            let has_mistakes = line.contains(" import assets ");
            ensure!(output.status.success() != has_mistakes, "{line}\n{told}");
            ensure!(!has_mistakes || told.contains("9 added, 0 changed, 0 unchanged, 4 refused"), "{line}\n{told}");
            ensure!(!told.contains("\"status\":4"), "{line}\n{told}");
            match name {
                Some(name) => exported.push((name.to_owned(), told)),
                None => done.push(told),
            }
        }
    }
    Ok(done)
}

#[test]
fn every_command_of_the_readme_does_what_it_says_on_a_fresh_folder() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let done = followed("README.md", folder.path())?;
    ensure!(done.len() >= 6, "{} commands were found", done.len());
    let exported = std::fs::read_to_string(folder.path().join("assets.csv")).context("the exported file")?;
    ensure!(exported.lines().count() == 10, "nine assets and a head line: {exported}");
    let gateway = done.last().context("the gateway")?;
    ensure!(gateway.contains(" accepted") && gateway.contains(" 0 refused"), "{gateway}");
    Ok(())
}

#[test]
fn every_command_of_how_to_run_it_does_what_it_says() -> Result<()> {
    let folder = tempfile::tempdir()?;
    let done = followed("docs/operating.md", folder.path())?;
    let [added, reset, listed, made, keys, revoked, health, _ready, metrics, backup, restored, checked, _again] =
        &done[..]
    else {
        anyhow::bail!("{} commands were found: {done:?}", done.len());
    };
    for code in [added, reset] {
        let code = code.lines().last().context("a code")?;
        ensure!(code.len() == 14 && code.split('-').all(|group| group.len() == 4), "{code}");
    }
    ensure!(listed.contains("rita: Rita Moor, requester") && listed.contains("admin: "), "{listed}");
    ensure!(made.lines().last().is_some_and(|key| key.starts_with("fairtally_") && key.len() == 53), "{made}");
    ensure!(keys.starts_with("north-gateway: gateway, works; expires ") && keys.contains("used never"), "{keys}");
    ensure!(revoked == "north-gateway is revoked\n", "{revoked}");
    ensure!(health.contains("\"status\":\"ok\""), "{health}");
    ensure!(metrics.contains("fair_tally_readings 0") && metrics.ends_with("# EOF\n"), "{metrics}");
    ensure!(backup.contains("today.zip") && backup.contains("sha256"), "{backup}");
    ensure!(restored.starts_with("restored: "), "{restored}");
    ensure!(checked.lines().count() == 7 && checked.lines().all(|line| line.ends_with(": ok")), "{checked}");
    Ok(())
}

//! The project's own commands. Each sets up what it needs.

mod package;
mod shell;
mod words;

use anyhow::{Result, bail};
use clap::{Parser, Subcommand};
use shell::{cargo, linting_cargo, npm, root, run};
use std::{
    path::{Path, PathBuf},
    process::Command,
    time::SystemTime,
};

#[derive(Debug, Parser)]
#[command(name = "cargo xtask")]
struct Cli {
    #[command(subcommand)]
    task: Task,
}

#[derive(Debug, Subcommand)]
enum Task {
    /// Builds what is needed and starts the application with the demo data.
    Demo {
        /// Folder of the data; kept between starts.
        #[arg(long)]
        data: Option<PathBuf>,
        /// Begins with fresh data.
        #[arg(long)]
        fresh: bool,
        #[arg(long, default_value_t = 8420)]
        port: u16,
        /// How much plant there is: small or full.
        #[arg(long, default_value = "full")]
        size: String,
    },
    /// Sets up, then checks and tests everything.
    Test,
    /// Builds the web application and the release binary.
    Build,
    /// Builds the package for Debian into target/package/.
    Package,
    /// Takes the screenshots of docs/screenshots/ from the demo data.
    Shots,
    /// Prints measured ratios: all of them but the large plant, or those named (ingest, limits, history, import, tally, screens,
    /// load, drag, plant).
    Bench {
        which: Vec<String>,
        /// A tenth of the large history or plant.
        #[arg(long)]
        small: bool,
    },
    /// Writes the description of the API and the web's types anew from the code.
    Generate,
    /// Asks the whole API for nonsense made from its own description: nothing fails, and all is answered as described.
    Fuzz {
        #[arg(long, default_value_t = 20_000)]
        requests: u32,
        /// Other nonsense for another one.
        #[arg(long, default_value_t = 11)]
        seed: u64,
    },
    /// Kills the server at random moments while readings come in, and looks at what is there afterwards.
    Crash {
        #[arg(long, default_value_t = 500)]
        rounds: u32,
    },
}

fn main() -> Result<()> {
    match Cli::parse().task {
        Task::Demo { data, fresh, port, size } => demo(data, fresh, port, &size),
        Task::Test => test(),
        Task::Build => build(),
        Task::Package => {
            build()?;
            let (binary, into) = (root().join("target/release/fair-tally"), root().join("target/package"));
            std::fs::create_dir_all(&into)?;
            println!(
                "{}",
                package::package(&binary, env!("CARGO_PKG_VERSION"), &into, package::Packed::Tight)?.display()
            );
            Ok(())
        }
        Task::Shots => shots(),
        Task::Bench { which, small } => {
            build()?;
            run(cargo().args(["build", "--release", "--workspace", "--bin", "bench"]))?;
            run(Command::new(root().join("target/release/bench"))
                .current_dir(root())
                .args(which)
                .args(small.then_some("--small")))
        }
        Task::Generate => generate(),
        Task::Fuzz { requests, seed } => run(linting_cargo()
            .args(["test", "--package", "fair-tally", "--test", "api", "--", "--nocapture", "fuzz::"])
            .env("FUZZ_REQUESTS", requests.to_string())
            .env("FUZZ_SEED", seed.to_string())),
        Task::Crash { rounds } => run(linting_cargo()
            .args(["test", "--package", "tally-e2e", "--test", "e2e", "--", "crash::"])
            .env("FAIR_TALLY_CRASH_ROUNDS", rounds.to_string())),
    }
}

fn build() -> Result<()> {
    web()?;
    // Of the whole workspace, as tests and benches are: a library has one set of features, and is compiled once.
    run(cargo().args(["build", "--release", "--workspace", "--bin", "fair-tally"]))
}

/// Installs the web's packages where they are not as the lock file says, and builds it where its sources changed since.
fn web() -> Result<()> {
    packages()?;
    let built = root().join("web/dist/index.html");
    let of = |path: &Path| std::fs::metadata(path).and_then(|file| file.modified()).ok();
    if let Some(built) = of(&built)
        && newest(&root().join("web"), &|name| matches!(name, "dist" | "node_modules"))?.is_some_and(|at| at < built)
    {
        return Ok(());
    }
    run(npm().args(["run", "build"]))
}

/// When the newest file below a folder was changed; `leave` says which are passed over.
fn newest(folder: &Path, leave: &dyn Fn(&str) -> bool) -> Result<Option<SystemTime>> {
    let mut newest = None;
    for entry in std::fs::read_dir(folder)? {
        let entry = entry?;
        if leave(&entry.file_name().to_string_lossy()) {
            continue;
        }
        let below = entry.metadata()?;
        let at = if below.is_dir() { self::newest(&entry.path(), leave)? } else { Some(below.modified()?) };
        newest = newest.max(at);
    }
    Ok(newest)
}

fn packages() -> Result<()> {
    let lock = root().join("web/package-lock.json");
    let mark = root().join("web/node_modules/.installed");
    let wanted = std::fs::read_to_string(&lock)?;
    if std::fs::read_to_string(&mark).is_ok_and(|installed| installed == wanted) {
        return Ok(());
    }
    run(npm().args(["ci", "--no-audit", "--no-fund"]))?;
    Ok(std::fs::write(mark, wanted)?)
}

fn demo(data: Option<PathBuf>, fresh: bool, port: u16, size: &str) -> Result<()> {
    build()?;
    let data = data.unwrap_or_else(|| root().join("demo-data"));
    if fresh && data.exists() {
        if !data.join("fair-tally.db").exists() {
            bail!("{} holds no Fair Tally data; it is left as it is", data.display());
        }
        std::fs::remove_dir_all(&data)?;
    }
    let binary = root().join("target/release/fair-tally");
    let port = port.to_string();
    run(Command::new(binary).arg("demo").arg("--data").arg(data).args(["--port", &port, "--size", size]))
}

/// Debian's browser and its driver, where they are not there already.
fn browser() -> Result<()> {
    let there = |program: &str| PathBuf::from("/usr/bin").join(program).exists();
    if ["chromium", "chromedriver", "pkill"].into_iter().all(there) {
        return Ok(());
    }
    let install = "apt-get update -qq && apt-get install -y -qq chromium chromium-driver procps";
    let root_or_sudo = format!("if [ \"$(id -u)\" = 0 ]; then {install}; else sudo sh -c '{install}'; fi");
    run(Command::new("sh").args(["-c", &root_or_sudo]).env("DEBIAN_FRONTEND", "noninteractive"))
}

/// What is compiled and what is not are checked side by side: each leaves a core alone for much of its time.
fn test() -> Result<()> {
    // The server is compiled beside the web that it shows; where it is not released, it is read when it is asked for.
    std::fs::create_dir_all(root().join("web/dist"))?;
    std::thread::scope(|scope| {
        let beside = scope.spawn(test_web);
        run(cargo().args(["fmt", "--all", "--check"]))?;
        run(linting_cargo().args(["test", "--workspace", "--no-run"]))?;
        beside.join().unwrap_or_else(|panicked| std::panic::resume_unwind(panicked))
    })?;
    // The browser and crash tests start the real binary, which is built with the server's tests.
    run(linting_cargo().args(["test", "--workspace"]))
}

/// Sets up the browser, and checks and builds the web.
fn test_web() -> Result<()> {
    browser()?;
    packages()?;
    for check in ["format:check", "lint", "types:check", "typecheck", "test"] {
        run(npm().args(["run", check]))?;
    }
    web()
}

fn shots() -> Result<()> {
    browser()?;
    build()?;
    run(cargo().args(["build", "--workspace", "--bin", "shots"]))?;
    run(Command::new(root().join("target/debug/shots")).current_dir(root()))
}

fn generate() -> Result<()> {
    packages()?;
    // As everything else builds it, so that nothing is built twice.
    run(cargo().args(["build", "--quiet", "--workspace", "--bin", "fair-tally"]))?;
    let text = shell::output(Command::new(root().join("target/debug/fair-tally")).arg("openapi"))?;
    let generated = root().join("web/src/generated");
    std::fs::write(generated.join("words.ts"), words::module(std::str::from_utf8(&text)?)?)?;
    std::fs::write(generated.join("openapi.json"), text)?;
    run(npm().args(["run", "types"]))
}

//! Who gets in: keys and people, by whoever has the machine.

use super::serve::resume;
use anyhow::{Context, Result};
use fair_tally::{Clock, secrets};
use std::path::{Path, PathBuf};
use tally_core::{
    access::roles::Role,
    ground::time::{DAY, Instant},
};
use tally_store::{
    Actor, Store, StoreError, Tx,
    access::{
        keys::{self, NewKey},
        passwords,
        people::{self, Person, Program},
    },
    plant::settings,
};

/// What is done with keys.
#[derive(Debug, clap::Subcommand)]
pub enum Key {
    /// Makes a key. The last line of the output is the key; it is shown this once.
    Add {
        /// Stands with what the key does.
        name: String,
        #[arg(long, value_parser = role)]
        role: Role,
        /// Code of the asset below which a gateway's key reaches; everything without it.
        #[arg(long)]
        scope: Option<String>,
        /// Days after which it is refused; never without it.
        #[arg(long)]
        days: Option<u32>,
        #[command(flatten)]
        of: Of,
    },
    /// Lists keys, without what they are.
    List {
        #[command(flatten)]
        of: Of,
    },
    /// Revokes a key: from this moment on it is refused.
    Revoke {
        name: String,
        #[command(flatten)]
        of: Of,
    },
}

/// What is done with people who sign in.
#[derive(Debug, clap::Subcommand)]
pub enum User {
    /// Adds a person. The last line of the output is the code with which they set their password, within an hour.
    Add {
        /// What they sign in with.
        code: String,
        #[arg(long)]
        name: String,
        #[arg(long, value_parser = role)]
        role: Role,
        #[command(flatten)]
        of: Of,
    },
    /// Makes a code with which a person sets a new password, within an hour; it is the last line of the output.
    Reset {
        /// Of the person.
        code: String,
        #[command(flatten)]
        of: Of,
    },
    /// Lists the people who may sign in.
    List {
        #[command(flatten)]
        of: Of,
    },
}

/// Whose data.
#[derive(Debug, clap::Args)]
pub struct Of {
    /// Folder of the data.
    #[arg(long, env = "FAIR_TALLY_DATA")]
    data: PathBuf,
}

/// A role by its word.
fn role(word: &str) -> Result<Role, String> {
    let words = || Role::ALL.map(Role::word).join(", ");
    Role::ALL.into_iter().find(|role| role.word() == word).ok_or_else(|| format!("is none of {}", words()))
}

/// The data, who acts on it from here, and the instant it is there.
pub(super) fn at_hand(data: &Path) -> Result<(Store, Actor, Instant)> {
    let system = Clock::system().now();
    let store = Store::open(data, system).with_context(|| format!("opening {}", data.display()))?;
    let is_demo: Option<String> = store.read(system, |view| settings::kept(view, "demo_today"))?;
    let now = if is_demo.is_some() { resume(&store, Instant::EARLIEST)? } else { system };
    let actor = store.read(now, |view| people::program(view, Program::CommandLine))?;
    Ok((store, actor, now))
}

fn write<T>(of: &Of, work: impl FnOnce(&mut Tx) -> Result<T, StoreError>) -> Result<T> {
    let (store, actor, now) = at_hand(&of.data)?;
    Ok(store.write(actor, now, work)?)
}

/// Text for an instant that may not be.
fn or_never(at: Option<Instant>) -> String {
    at.map_or_else(|| "never".into(), |at| at.to_string())
}

/// Does what is asked with keys.
pub fn key(asked: Key) -> Result<()> {
    match asked {
        Key::Add { name, role, scope, days, of } => {
            let key = secrets::key();
            write(&of, |tx| {
                let expires_at = days.map(|days| tx.now.plus(i64::from(days) * DAY));
                keys::add(tx, &NewKey { name: name.clone(), role, scope, expires_at }, &secrets::hash(&key))
            })?;
            println!("{name} is a key of a {}. It is shown this once:", role.word());
            println!("{key}");
        }
        Key::List { of } => {
            let (store, _, now) = at_hand(&of.data)?;
            for key in store.read(now, |view| keys::list(view, now))? {
                let works = if key.works { "works" } else { "does not work" };
                let scope = key.scope.map_or_else(String::new, |scope| format!(" below {scope}"));
                let (name, role, used) = (key.name, key.role.word(), or_never(key.used_at));
                println!("{name}: {role}{scope}, {works}; expires {}; used {used}", or_never(key.expires_at));
            }
        }
        Key::Revoke { name, of } => {
            write(&of, |tx| keys::revoke(tx, &name))?;
            println!("{name} is revoked");
        }
    }
    Ok(())
}

/// Does what is asked with people.
pub fn user(asked: User) -> Result<()> {
    match asked {
        User::Add { code, name, role, of } => {
            let reset = secrets::code();
            let person = Person { code: code.clone(), name, role, crew: None, rate: None, mail: None };
            let until = write(&of, |tx| {
                people::add(tx, &person)?;
                passwords::reset(tx, &code, &secrets::code_hash(&reset))
            })?;
            println!("{code} is a {} and sets a password with this code, once, until {until}:", role.word());
            println!("{reset}");
        }
        User::Reset { code, of } => {
            let reset = secrets::code();
            let until = write(&of, |tx| passwords::reset(tx, &code, &secrets::code_hash(&reset)))?;
            println!("{code} sets a new password with this code, once, until {until}:");
            println!("{reset}");
        }
        User::List { of } => {
            let (store, _, now) = at_hand(&of.data)?;
            for person in store.read(now, |view| people::list(view))? {
                println!("{}: {}, {}", person.code, person.name, person.role.word());
            }
        }
    }
    Ok(())
}

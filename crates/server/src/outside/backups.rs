//! Where backups of a server go, which are kept, and the one that is being made.

use std::{
    path::{Path, PathBuf},
    sync::{Mutex, PoisonError},
};
use tally_core::{
    ground::time::Instant,
    outside::backups::{is_due, to_let_go, waits},
};
use tally_store::{
    Store, StoreError,
    outside::{
        backup,
        backup::{Backup, BackupFor},
    },
    plant::settings,
};

/// Where they go and how many are kept; 0 makes none by the clock.
#[derive(Debug, Clone, Default)]
pub struct BackupPlan {
    pub folder: PathBuf,
    pub keep: usize,
}

#[derive(Debug, Default)]
struct Doing {
    since: Option<Instant>,
    failed: Option<(Instant, String)>,
}

/// Says that nothing is being made any more, also when that panicked.
struct Ends<'a>(&'a Backups);

impl Drop for Ends<'_> {
    fn drop(&mut self) {
        self.0.with(|doing| doing.since = None);
    }
}

/// The backups of a server.
#[derive(Debug)]
pub struct Backups {
    pub plan: BackupPlan,
    doing: Mutex<Doing>,
}

/// How backups stand.
#[derive(Debug, Clone, Default)]
pub struct BackupStanding {
    /// The newest first.
    pub made: Vec<Backup>,
    /// Since when one is being made.
    pub since: Option<Instant>,
    /// Why the last one was not made.
    pub failed: Option<String>,
    /// Since when there is something to keep.
    pub began: Option<Instant>,
}

impl BackupStanding {
    /// When the last good one was made.
    #[must_use]
    pub fn last(&self) -> Option<Instant> {
        self.made.first().map(|backup| backup.made_at)
    }
}

impl Backups {
    /// By that plan.
    #[must_use]
    pub fn new(plan: BackupPlan) -> Self {
        Self { plan, doing: Mutex::default() }
    }

    /// Into a folder in that of the data, by hand only.
    #[must_use]
    pub fn beside(store: &Store) -> Self {
        let folder = store.path().parent().unwrap_or(Path::new(".")).join(backup::FOLDER);
        Self::new(BackupPlan { folder, keep: 0 })
    }

    fn with<T>(&self, look: impl FnOnce(&mut Doing) -> T) -> T {
        look(&mut self.doing.lock().unwrap_or_else(PoisonError::into_inner))
    }

    /// Says that one is being made from now on.
    ///
    /// # Errors
    /// [`StoreError::Conflict`] while another is.
    pub fn begin(&self, now: Instant) -> Result<(), StoreError> {
        self.with(|doing| match doing.since {
            Some(_) => Err(StoreError::Conflict("a backup is being made: wait for it".into())),
            None => {
                doing.since = Some(now);
                Ok(())
            }
        })
    }

    /// Makes the one that was begun, and lets those go that are too many.
    ///
    /// # Errors
    /// As [`backup::make`].
    pub fn finish(&self, store: &Store, made_for: BackupFor, now: Instant) -> Result<(), StoreError> {
        let _ends = Ends(self);
        let made = backup::make(store.path(), &self.plan.folder.join(made_for.name(now)), now);
        let done = made.and_then(|_| self.let_go());
        self.with(|doing| doing.failed = done.as_ref().err().map(|error| (now, error.to_string())));
        done
    }

    /// Of those that were made by the clock the newest stay; what was made by hand or for an upgrade is for people to take away.
    fn let_go(&self) -> Result<(), StoreError> {
        let nights = backup::list(&self.plan.folder)?.into_iter().filter(|one| one.made_for == BackupFor::Night);
        for name in to_let_go(nights.map(|one| (one.made_at, one.name)).collect(), self.plan.keep) {
            let path = self.plan.folder.join(name);
            std::fs::remove_file(&path)
                .map_err(|source| StoreError::Folder { path: path.display().to_string(), source })?;
        }
        Ok(())
    }

    /// How they stand.
    ///
    /// # Errors
    /// [`StoreError::Folder`], SQLite's own.
    pub fn standing(&self, store: &Store, now: Instant) -> Result<BackupStanding, StoreError> {
        let began = store.read(now, |view| backup::began(view))?;
        let made = backup::list(&self.plan.folder)?;
        let (since, failed) = self.with(|doing| (doing.since, doing.failed.clone()));
        Ok(BackupStanding { made, since, failed: failed.map(|(_, why)| why), began })
    }

    /// Makes a night's backup where one is due. After one that failed it waits, and says so again.
    ///
    /// # Errors
    /// As [`Self::finish`].
    pub fn by_night(&self, store: &Store, now: Instant) -> Result<(), StoreError> {
        if self.plan.keep == 0 {
            return Ok(());
        }
        let failed = self.with(|doing| doing.failed.clone());
        if let Some((_, why)) = failed.filter(|(at, _)| waits(Some(*at), now)) {
            return Err(StoreError::Conflict(why));
        }
        let (zone, standing) = (store.read(now, |view| settings::time_zone(view))?, self.standing(store, now)?);
        let due = is_due(standing.last(), standing.began.unwrap_or(now), now, &zone);
        if due && self.begin(now).is_ok() {
            self.finish(store, BackupFor::Night, now)?;
            tracing::info!("a backup was made");
        }
        Ok(())
    }
}

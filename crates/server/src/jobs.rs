//! Long work under way: how far it is, and a way to end it.

use std::{
    collections::{HashMap, hash_map::Entry},
    sync::{
        Arc, Mutex, PoisonError,
        atomic::{AtomicBool, AtomicUsize, Ordering},
    },
};

/// One piece of long work.
#[derive(Debug, Default)]
pub struct Job {
    /// Code of the person whose it is.
    by: String,
    done: AtomicUsize,
    all: AtomicUsize,
    cancelled: AtomicBool,
}

impl Job {
    /// Takes down how far it is; says whether to go on.
    pub fn step(&self, done: usize, all: usize) -> bool {
        self.done.store(done, Ordering::Relaxed);
        self.all.store(all, Ordering::Relaxed);
        !self.cancelled.load(Ordering::Relaxed)
    }

    /// Done, and of how many; 0 of 0 before it is known.
    pub fn progress(&self) -> (usize, usize) {
        (self.done.load(Ordering::Relaxed), self.all.load(Ordering::Relaxed))
    }

    /// Whether that person began it.
    pub fn is_of(&self, by: &str) -> bool {
        self.by == by
    }

    /// Asks it to end; says whether it is this person's to end.
    pub fn cancel(&self, by: &str) -> bool {
        let theirs = self.is_of(by);
        if theirs {
            self.cancelled.store(true, Ordering::Relaxed);
        }
        theirs
    }
}

/// Work under way, by the name its client gave it.
#[derive(Debug, Clone, Default)]
pub struct Jobs(Arc<Mutex<HashMap<String, Arc<Job>>>>);

impl Jobs {
    fn with<T>(&self, look: impl FnOnce(&mut HashMap<String, Arc<Job>>) -> T) -> T {
        look(&mut self.0.lock().unwrap_or_else(PoisonError::into_inner))
    }

    /// Work of that name, if it is under way.
    pub fn get(&self, name: &str) -> Option<Arc<Job>> {
        self.with(|jobs| jobs.get(name).cloned())
    }

    /// Begins work that is known by a name until the answer is dropped; `None` where the name is taken.
    pub fn begin(&self, name: Option<String>, by: &str) -> Option<UnderWay> {
        let job = Arc::new(Job { by: by.into(), ..Job::default() });
        if let Some(name) = &name {
            let is_taken = self.with(|jobs| match jobs.entry(name.clone()) {
                Entry::Occupied(_) => true,
                Entry::Vacant(free) => {
                    free.insert(job.clone());
                    false
                }
            });
            if is_taken {
                return None;
            }
        }
        Some(UnderWay { jobs: self.clone(), name, job })
    }
}

/// Work under way; forgotten when dropped.
#[derive(Debug)]
pub struct UnderWay {
    jobs: Jobs,
    name: Option<String>,
    pub job: Arc<Job>,
}

impl Drop for UnderWay {
    fn drop(&mut self) {
        if let Some(name) = &self.name {
            self.jobs.with(|jobs| jobs.remove(name));
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn work_is_known_while_it_lasts_and_told_to_end() {
        let jobs = Jobs::default();
        let under_way = jobs.begin(Some("a".into()), "ida").unwrap();
        assert!(jobs.begin(Some("a".into()), "ida").is_none(), "the name is taken");
        assert!(under_way.job.step(3, 10));
        assert_eq!(jobs.get("a").map(|job| job.progress()), Some((3, 10)));
        assert!(!jobs.get("a").unwrap().cancel("tess"), "another's");
        assert!(under_way.job.step(4, 10));
        assert!(jobs.get("a").unwrap().cancel("ida"));
        assert!(!under_way.job.step(4, 10));
        drop(under_way);
        assert!(jobs.get("a").is_none());
    }
}

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
pub struct UnderWay {
    /// Code of the person whose it is.
    by: String,
    done: AtomicUsize,
    all: AtomicUsize,
    cancelled: AtomicBool,
}

impl UnderWay {
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
pub struct Imports(Arc<Mutex<HashMap<String, Arc<UnderWay>>>>);

impl Imports {
    fn with<T>(&self, look: impl FnOnce(&mut HashMap<String, Arc<UnderWay>>) -> T) -> T {
        look(&mut self.0.lock().unwrap_or_else(PoisonError::into_inner))
    }

    /// Work of that name, if it is under way.
    pub fn get(&self, name: &str) -> Option<Arc<UnderWay>> {
        self.with(|imports| imports.get(name).cloned())
    }

    /// Begins work that is known by a name until the answer is dropped; `None` where the name is taken.
    pub fn begin(&self, name: Option<String>, by: &str) -> Option<Begun> {
        let import = Arc::new(UnderWay { by: by.into(), ..UnderWay::default() });
        if let Some(name) = &name {
            let is_taken = self.with(|imports| match imports.entry(name.clone()) {
                Entry::Occupied(_) => true,
                Entry::Vacant(free) => {
                    free.insert(import.clone());
                    false
                }
            });
            if is_taken {
                return None;
            }
        }
        Some(Begun { imports: self.clone(), name, import })
    }
}

/// Work under way; forgotten when dropped.
#[derive(Debug)]
pub struct Begun {
    imports: Imports,
    name: Option<String>,
    pub import: Arc<UnderWay>,
}

impl Drop for Begun {
    fn drop(&mut self) {
        if let Some(name) = &self.name {
            self.imports.with(|imports| imports.remove(name));
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn work_is_known_while_it_lasts_and_told_to_end() {
        let imports = Imports::default();
        let under_way = imports.begin(Some("a".into()), "ida").unwrap();
        assert!(imports.begin(Some("a".into()), "ida").is_none(), "the name is taken");
        assert!(under_way.import.step(3, 10));
        assert_eq!(imports.get("a").map(|import| import.progress()), Some((3, 10)));
        assert!(!imports.get("a").unwrap().cancel("tess"), "another's");
        assert!(under_way.import.step(4, 10));
        assert!(imports.get("a").unwrap().cancel("ida"));
        assert!(!under_way.import.step(4, 10));
        drop(under_way);
        assert!(imports.get("a").is_none());
    }
}

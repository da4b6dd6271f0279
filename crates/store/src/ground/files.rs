//! Files that lie beside the database: each under the checksum of what it holds, so that the same is kept once and none is ever
//! changed. A file is there before a row names it, and goes after the last row that does.

use super::{
    error::{Result, StoreError, failed},
    folder::make_private,
};
use sha2::{Digest, Sha256};
use std::{
    fs::File,
    io::{ErrorKind, Write},
    path::{Path, PathBuf},
};

/// The folder's name, in that of the data.
pub const FOLDER: &str = "files";

/// A smaller picture of the same photo lies beside it.
pub(crate) const SMALL: &str = "-small";

/// Where files lie.
#[derive(Debug, Clone)]
pub struct Files {
    folder: PathBuf,
}

/// Which picture of a photo.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Size {
    Whole,
    Small,
}

impl Files {
    /// Those of a database.
    #[must_use]
    pub fn beside(database: &Path) -> Self {
        Self { folder: database.parent().unwrap_or(Path::new(".")).join(FOLDER) }
    }

    /// Where one lies: in a folder of those whose names begin alike.
    #[must_use]
    pub fn path(&self, name: &str, size: Size) -> PathBuf {
        let small = if size == Size::Small { SMALL } else { "" };
        self.folder.join(name.get(..2).unwrap_or("00")).join(format!("{name}{small}"))
    }

    /// The name under which those bytes are kept.
    #[must_use]
    pub fn name(bytes: &[u8]) -> String {
        hex::encode(Sha256::digest(bytes))
    }

    /// Keeps bytes, with a smaller picture where there is one: both are on the disk when it answers.
    ///
    /// # Errors
    /// [`StoreError::Folder`], [`StoreError::Full`].
    pub fn put(&self, bytes: &[u8], small: Option<&[u8]>) -> Result<String> {
        let name = Self::name(bytes);
        if let Some(small) = small {
            write(&self.path(&name, Size::Small), small)?;
        }
        write(&self.path(&name, Size::Whole), bytes)?;
        Ok(name)
    }

    /// What is kept under a name.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] where it is lost, [`StoreError::Folder`].
    pub fn get(&self, name: &str, size: Size) -> Result<Vec<u8>> {
        let path = self.path(name, size);
        std::fs::read(&path).map_err(|error| match error.kind() {
            ErrorKind::NotFound => StoreError::not_found("file", name),
            _ => failed(&path)(error),
        })
    }

    /// Takes what is kept under a name away, as far as it is there.
    ///
    /// # Errors
    /// [`StoreError::Folder`].
    pub fn remove(&self, name: &str) -> Result<()> {
        for size in [Size::Whole, Size::Small] {
            let path = self.path(name, size);
            match std::fs::remove_file(&path) {
                Err(error) if error.kind() != ErrorKind::NotFound => return Err(failed(&path)(error)),
                _ => {}
            }
        }
        Ok(())
    }
}

/// Writes a file that is there in whole or not at all, and survives a crash from then on.
pub(crate) fn write(path: &Path, bytes: &[u8]) -> Result<()> {
    if path.exists() {
        return Ok(());
    }
    let folder = path.parent().unwrap_or(Path::new("."));
    make_private(folder)?;
    // Only its owner reads it.
    let mut part = tempfile::NamedTempFile::new_in(folder).map_err(failed(path))?;
    part.write_all(bytes).map_err(failed(path))?;
    part.as_file().sync_all().map_err(failed(path))?;
    part.persist(path).map_err(|error| failed(path)(error.error))?;
    File::open(folder).and_then(|folder| folder.sync_all()).map_err(failed(folder))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_same_is_kept_once_and_goes_as_a_whole() {
        let data = tempfile::tempdir().unwrap();
        let files = Files::beside(&data.path().join("fair-tally.db"));
        let name = files.put(b"whole", Some(b"small")).unwrap();
        assert_eq!(files.put(b"whole", Some(b"small")).unwrap(), name);
        // `printf whole | sha256sum`
        assert_eq!(name, "5d5766cf2d78701614200418ee1450690d9af12c84d52545e4802f001ad53099");
        assert_eq!(files.get(&name, Size::Whole).unwrap(), b"whole");
        assert_eq!(files.get(&name, Size::Small).unwrap(), b"small");
        let lying = std::fs::read_dir(files.path(&name, Size::Whole).parent().unwrap()).unwrap().count();
        assert_eq!(lying, 2, "nothing half-written is left");
        files.remove(&name).unwrap();
        files.remove(&name).unwrap();
        assert!(matches!(files.get(&name, Size::Whole), Err(StoreError::NotFound { .. })));
    }
}

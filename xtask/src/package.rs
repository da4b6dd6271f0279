//! The package for Debian, made by Debian's own `dpkg-deb`: the binary, a hardened unit, its user, its configuration. Data are
//! under /var/lib/fair-tally and are the plant's: no upgrade and no removal touches them.

use crate::shell::{output, root, run};
use anyhow::{Context, Result};
use std::{
    fs,
    os::unix::fs::PermissionsExt,
    path::{Path, PathBuf},
    process::Command,
};

/// Where each file goes, and with which rights.
const FILES: [(&str, &str, u32); 3] = [
    ("packaging/fair-tally.service", "usr/lib/systemd/system/fair-tally.service", 0o644),
    ("packaging/sysusers.conf", "usr/lib/sysusers.d/fair-tally.conf", 0o644),
    ("packaging/fair-tally.conf", "etc/fair-tally/fair-tally.conf", 0o640),
];

/// Files that whoever runs it may change: an upgrade asks before it takes them back.
const CONFFILES: &str = "/etc/fair-tally/fair-tally.conf\n";

/// What is done when it is installed and removed.
const SCRIPTS: [&str; 2] = ["postinst", "prerm"];

fn put(from: &Path, to: &Path, rights: u32) -> Result<()> {
    fs::create_dir_all(to.parent().unwrap_or(Path::new("/")))?;
    fs::copy(from, to).with_context(|| format!("copying {}", from.display()))?;
    Ok(fs::set_permissions(to, fs::Permissions::from_mode(rights))?)
}

/// How tight a package is packed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Packed {
    Tight,
    /// For tests, which look at what is in it.
    #[cfg(test)]
    Loose,
}

/// Makes the package of that binary and version in a folder; its path.
pub fn package(binary: &Path, version: &str, into: &Path, packed: Packed) -> Result<PathBuf> {
    let architecture = output(Command::new("dpkg").arg("--print-architecture"))?;
    let architecture = String::from_utf8(architecture)?.trim().to_owned();
    let tree = into.join(format!("fair-tally_{version}_{architecture}"));
    if tree.exists() {
        fs::remove_dir_all(&tree)?;
    }
    put(binary, &tree.join("usr/bin/fair-tally"), 0o755)?;
    put(&root().join("LICENSE"), &tree.join("usr/share/doc/fair-tally/copyright"), 0o644)?;
    put(&root().join("docs/operating.md"), &tree.join("usr/share/doc/fair-tally/operating.md"), 0o644)?;
    for (from, to, rights) in FILES {
        put(&root().join(from), &tree.join(to), rights)?;
    }
    let control = tree.join("DEBIAN");
    for script in SCRIPTS {
        put(&root().join("packaging").join(script), &control.join(script), 0o755)?;
    }
    fs::write(control.join("conffiles"), CONFFILES)?;
    let size = fs::metadata(binary)?.len() / 1024;
    let fields = format!(
        "Package: fair-tally\nVersion: {version}\nArchitecture: {architecture}\nMaintainer: Fair Tally <tally@plant.example>\n\
         Installed-Size: {size}\nDepends: libc6, ca-certificates, systemd\nSection: science\nPriority: optional\n\
         Description: limits that raise work, and a tally that shows what it adds up to\n \
         Meter and condition limits raise maintenance work by themselves; backlog, downtime and cost are\n \
         analysed across the asset tree, and every figure explains itself.\n"
    );
    fs::write(control.join("control"), fields)?;
    let file = into.join(format!("fair-tally_{version}_{architecture}.deb"));
    let compression = match packed {
        Packed::Tight => "-Zxz",
        #[cfg(test)]
        Packed::Loose => "-Znone",
    };
    run(Command::new("dpkg-deb").args(["--root-owner-group", compression, "--build"]).arg(&tree).arg(&file))?;
    fs::remove_dir_all(&tree)?;
    Ok(file)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A system of its own, as far as the packager's tool needs one.
    struct System {
        folder: PathBuf,
    }

    impl System {
        fn new(folder: PathBuf) -> Self {
            for part in ["var/lib/dpkg/info", "var/lib/dpkg/updates", "var/log"] {
                fs::create_dir_all(folder.join(part)).unwrap();
            }
            fs::write(folder.join("var/lib/dpkg/status"), "").unwrap();
            Self { folder }
        }

        fn dpkg(&self, arguments: &[&str], file: Option<&Path>) {
            let mut command = Command::new("dpkg");
            command.arg("--root").arg(&self.folder).args([
                "--force-script-chrootless",
                "--force-depends",
                "--force-not-root",
            ]);
            command.arg("--force-confold").args(arguments).args(file);
            run(&mut command).unwrap();
        }

        fn read(&self, path: &str) -> String {
            fs::read_to_string(self.folder.join(path)).unwrap()
        }
    }

    /// Installed, changed by whoever runs it, upgraded, removed: what is the plant's stays.
    #[test]
    fn a_package_is_installed_upgraded_and_removed_and_the_data_stay() {
        let folder = std::env::temp_dir().join(format!("fair-tally-package-{}", std::process::id()));
        let binary = std::env::current_exe().unwrap();
        let binary = binary.ancestors().nth(2).unwrap().join("fair-tally");
        assert!(binary.exists(), "{} is built with the server's tests", binary.display());
        fs::create_dir_all(&folder).unwrap();
        let old = package(&binary, "0.0.9", &folder, Packed::Loose).unwrap();
        let new = package(&binary, "0.1.0", &folder, Packed::Loose).unwrap();
        let system = System::new(folder.join("system"));
        system.dpkg(&["--install"], Some(&old));
        let installed = Command::new(system.folder.join("usr/bin/fair-tally")).arg("--version").output().unwrap();
        assert!(String::from_utf8_lossy(&installed.stdout).starts_with("fair-tally "), "{installed:?}");

        let data = system.folder.join("var/lib/fair-tally/fair-tally.db");
        fs::create_dir_all(data.parent().unwrap()).unwrap();
        fs::write(&data, "the plant's").unwrap();
        let settings = system.read("etc/fair-tally/fair-tally.conf").replace("8420", "8421");
        fs::write(system.folder.join("etc/fair-tally/fair-tally.conf"), &settings).unwrap();
        system.dpkg(&["--install"], Some(&new));
        assert!(system.read("var/lib/dpkg/status").contains("Version: 0.1.0"));
        assert_eq!(system.read("etc/fair-tally/fair-tally.conf"), settings, "an upgrade leaves settings as they are");
        assert_eq!(fs::read_to_string(&data).unwrap(), "the plant's");

        system.dpkg(&["--remove", "fair-tally"], None);
        assert!(!system.folder.join("usr/bin/fair-tally").exists());
        assert_eq!(system.read("etc/fair-tally/fair-tally.conf"), settings);
        system.dpkg(&["--purge", "fair-tally"], None);
        assert_eq!(fs::read_to_string(&data).unwrap(), "the plant's", "not even then");
        fs::remove_dir_all(&folder).unwrap();
    }

    /// Each setting of the configuration is a flag of the server's, by the name that its help says.
    #[test]
    fn the_configuration_names_settings_that_there_are() {
        let serve = fs::read_to_string(root().join("crates/server/src/cli/serve.rs")).unwrap();
        let text = fs::read_to_string(root().join("packaging/fair-tally.conf")).unwrap();
        let names = text.lines().filter_map(|line| line.trim_start_matches('#').split_once('=')).map(|(name, _)| name);
        let names = names.filter(|name| name.starts_with("FAIR_TALLY_")).collect::<Vec<_>>();
        assert_eq!(names.len(), 9);
        for name in names {
            assert!(serve.contains(&format!("env = \"{name}\"")), "{name}");
        }
    }
}

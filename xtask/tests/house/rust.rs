//! Imports of the crates: `use` and paths, followed through modules and re-exports to the file where the thing stands.

use crate::imports::House;
use anyhow::{Context, Result};
use std::{
    collections::{BTreeMap, BTreeSet},
    path::{Path, PathBuf},
};
use syn::{Attribute, Item, UseTree, visit::Visit};

/// A module: its file, what it defines, and by which names it hands on what stands elsewhere.
#[derive(Default)]
struct Module {
    file: String,
    /// With the name of its crate in front.
    path: Vec<String>,
    children: BTreeMap<String, usize>,
    defines: BTreeSet<String>,
    /// Names that `use` brings in, with whole paths; those handed on, and all.
    brought: BTreeMap<String, Vec<String>>,
    handed_on: BTreeSet<String>,
    globs: Vec<Vec<String>>,
    /// Paths written out in its code.
    paths: BTreeSet<Vec<String>>,
}

/// All crates; a crate's root by its name in Rust.
#[derive(Default)]
struct Crates {
    modules: Vec<Module>,
    roots: BTreeMap<String, usize>,
}

pub fn read(root: &Path, house: &mut House) -> Result<()> {
    let mut crates = Crates::default();
    let mut folders: Vec<PathBuf> = Vec::new();
    for entry in std::fs::read_dir(root.join("crates"))? {
        folders.push(entry?.path());
    }
    folders.sort();
    for folder in folders {
        let manifest = std::fs::read_to_string(folder.join("Cargo.toml"))?;
        let name = manifest.lines().find_map(|line| line.strip_prefix("name = \"")?.strip_suffix('"'));
        let name = name.with_context(|| format!("{} names no package", folder.display()))?.replace('-', "_");
        let source = folder.join("src");
        let bins = std::fs::read_dir(source.join("bin")).into_iter().flatten().flatten().map(|entry| entry.path());
        let programs = bins.map(|path| if path.is_dir() { path.join("main.rs") } else { path });
        // A program is a crate of its own, which nobody can import: its root has a name that no path has.
        let programs = programs.chain([source.join("main.rs")]).map(|path| (path.display().to_string(), path));
        for (name, file) in [(name, source.join("lib.rs"))].into_iter().chain(programs) {
            if file.exists() {
                let at = crates.module(root, &file, &name, &[])?;
                crates.roots.insert(name, at);
            }
        }
    }
    for module in &crates.modules {
        let brought = module.brought.iter().filter(|(name, _)| !module.handed_on.contains(*name)).map(|(_, path)| path);
        for path in brought.chain(&module.globs).chain(&module.paths) {
            let path = crates.spelled_out(module, path);
            if let Some((file, name)) = crates.find(&path, 0) {
                house.arrow(&module.file, &file, &name);
            }
        }
    }
    Ok(())
}

/// Whether it is compiled for tests only.
pub fn is_test(attributes: &[Attribute]) -> bool {
    attributes.iter().any(|attribute| {
        attribute.path().is_ident("cfg") && attribute.parse_args::<syn::Path>().is_ok_and(|path| path.is_ident("test"))
    })
}

impl Crates {
    /// Reads the module in `file` and those below it; its place.
    fn module(&mut self, root: &Path, file: &Path, krate: &str, path: &[String]) -> Result<usize> {
        let text = std::fs::read_to_string(file).with_context(|| file.display().to_string())?;
        let parsed = syn::parse_file(&text).with_context(|| file.display().to_string())?;
        let at = self.modules.len();
        let shown = file.strip_prefix(root)?.to_string_lossy().into_owned();
        let whole = std::iter::once(krate.to_string()).chain(path.iter().cloned()).collect();
        self.modules.push(Module { file: shown, path: whole, ..Module::default() });
        let is_root = ["lib.rs", "main.rs", "mod.rs"].iter().any(|name| file.ends_with(name))
            || file.parent().is_some_and(|folder| folder.ends_with("bin"));
        let below = if is_root { file.with_file_name("") } else { file.with_extension("") };
        let mut written = Written { krate, path, module: Module::default() };
        for item in &parsed.items {
            if let Item::Mod(child) = item {
                let name = child.ident.to_string();
                if child.content.is_none() && !is_test(&child.attrs) {
                    let flat = below.join(format!("{name}.rs"));
                    let file = if flat.exists() { flat } else { below.join(&name).join("mod.rs") };
                    let inner = [path, std::slice::from_ref(&name)].concat();
                    let place = self.module(root, &file, krate, &inner)?;
                    self.modules[at].children.insert(name, place);
                }
                continue;
            }
            written.item(item);
        }
        let Module { defines, brought, handed_on, globs, paths, .. } = written.module;
        let module = &mut self.modules[at];
        (module.defines, module.brought, module.handed_on) = (defines, brought, handed_on);
        (module.globs, module.paths) = (globs, paths);
        Ok(at)
    }

    /// A path as it is written in a module, from the root of its crate.
    fn spelled_out(&self, module: &Module, path: &[String]) -> Vec<String> {
        match path.split_first() {
            Some((first, rest)) if !self.roots.contains_key(first) => match module.brought.get(first) {
                Some(brought) => self.through_child(module, &[brought.as_slice(), rest].concat()),
                None => self.through_child(module, path),
            },
            _ => path.to_vec(),
        }
    }

    /// A path that may begin with a child of the module, from the root of its crate.
    fn through_child(&self, module: &Module, path: &[String]) -> Vec<String> {
        match path.first() {
            Some(first) if module.children.contains_key(first) => [module.path.as_slice(), path].concat(),
            _ => path.to_vec(),
        }
    }

    /// The file in which what a path names stands, and the name; nothing for a path outside, or one of a module only.
    fn find(&self, path: &[String], depth: u8) -> Option<(String, String)> {
        let (krate, names) = path.split_first()?;
        let mut module = &self.modules[*self.roots.get(krate)?];
        for (place, name) in names.iter().enumerate() {
            if let Some(child) = module.children.get(name) {
                module = &self.modules[*child];
                continue;
            }
            if module.defines.contains(name) || depth > 8 {
                return Some((module.file.clone(), name.clone()));
            }
            if let Some(onward) = module.brought.get(name) {
                let onward = self.through_child(module, onward);
                return self.find(&[onward.as_slice(), &names[place + 1..]].concat(), depth + 1);
            }
            let through = module.globs.iter().find_map(|glob| {
                let glob = self.through_child(module, glob);
                let found = self.find(&[glob.as_slice(), &names[place..]].concat(), depth + 1)?;
                (found.1 == *name).then_some(found)
            });
            return through;
        }
        None
    }
}

/// Takes down what one file says.
struct Written<'a> {
    krate: &'a str,
    path: &'a [String],
    module: Module,
}

impl Written<'_> {
    fn item(&mut self, item: &Item) {
        let (attributes, name) = match item {
            Item::Fn(one) => (&one.attrs, Some(&one.sig.ident)),
            Item::Struct(one) => (&one.attrs, Some(&one.ident)),
            Item::Enum(one) => (&one.attrs, Some(&one.ident)),
            Item::Trait(one) => (&one.attrs, Some(&one.ident)),
            Item::Type(one) => (&one.attrs, Some(&one.ident)),
            Item::Const(one) => (&one.attrs, Some(&one.ident)),
            Item::Static(one) => (&one.attrs, Some(&one.ident)),
            Item::Macro(one) => (&one.attrs, one.ident.as_ref()),
            Item::Impl(one) => (&one.attrs, None),
            Item::Use(one) => {
                if !is_test(&one.attrs) {
                    let is_public = !matches!(one.vis, syn::Visibility::Inherited);
                    self.brings(&one.tree, &mut Vec::new(), is_public);
                }
                return;
            }
            _ => return,
        };
        if is_test(attributes) {
            return;
        }
        if let Some(name) = name {
            self.module.defines.insert(name.to_string());
        }
        if let Item::Macro(made) = item {
            // Types that a macro of the crate makes are named in its call.
            let words = made.mac.tokens.to_string();
            let names = words.split(|c: char| !c.is_alphanumeric() && c != '_');
            self.module.defines.extend(names.filter(|name| name.starts_with(char::is_uppercase)).map(String::from));
        }
        self.visit_item(item);
    }

    fn brings(&mut self, tree: &UseTree, before: &mut Vec<String>, is_public: bool) {
        match tree {
            UseTree::Path(path) => {
                before.push(path.ident.to_string());
                self.brings(&path.tree, before, is_public);
                before.pop();
            }
            UseTree::Group(group) => {
                for tree in &group.items {
                    self.brings(tree, before, is_public);
                }
            }
            UseTree::Glob(_) => {
                let path = self.spelled_whole(before);
                self.module.globs.push(path);
            }
            UseTree::Name(name) => self.bring(before, &name.ident.to_string(), &name.ident.to_string(), is_public),
            UseTree::Rename(name) => self.bring(before, &name.ident.to_string(), &name.rename.to_string(), is_public),
        }
    }

    fn bring(&mut self, before: &[String], name: &str, called: &str, is_public: bool) {
        let mut path = before.to_vec();
        if name != "self" {
            path.push(name.into());
        }
        let path = self.spelled_whole(&path);
        let called = if called == "self" { path.last().cloned().unwrap_or_default() } else { called.into() };
        if is_public {
            self.module.handed_on.insert(called.clone());
        }
        self.module.brought.insert(called, path);
    }

    /// A path with the name of its crate in front.
    fn spelled_whole(&self, path: &[String]) -> Vec<String> {
        let here: Vec<_> = std::iter::once(self.krate.to_string()).chain(self.path.iter().cloned()).collect();
        let (up, rest) = match path.first().map(String::as_str) {
            Some("crate") => (here.len() - 1, &path[1..]),
            Some("self") => (0, &path[1..]),
            Some("super") => {
                let up = path.iter().take_while(|name| *name == "super").count();
                (up, &path[up..])
            }
            _ => return path.to_vec(),
        };
        here[..here.len().saturating_sub(up).max(1)].iter().chain(rest).cloned().collect()
    }
}

impl<'ast> Visit<'ast> for Written<'_> {
    fn visit_path(&mut self, path: &'ast syn::Path) {
        let names: Vec<_> = path.segments.iter().map(|segment| segment.ident.to_string()).collect();
        if names.len() > 1 {
            let path = self.spelled_whole(&names);
            self.module.paths.insert(path);
        }
        syn::visit::visit_path(self, path);
    }

    fn visit_macro(&mut self, called: &'ast syn::Macro) {
        // What stands in a macro's call is not parsed; paths in it are words joined by colons.
        let words = called.tokens.to_string().replace(" :: ", "::");
        for path in words.split(|c: char| !c.is_alphanumeric() && c != '_' && c != ':') {
            let names: Vec<_> = path.split("::").filter(|name| !name.is_empty()).map(String::from).collect();
            if names.len() > 1 {
                let path = self.spelled_whole(&names);
                self.module.paths.insert(path);
            }
        }
        syn::visit::visit_macro(self, called);
    }
}

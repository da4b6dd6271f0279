//! How long files are.

use anyhow::{Context, Result};
use std::path::Path;
use walkdir::WalkDir;

/// Lines of code of a file at the most, where its first comment gives no reason for more.
const MOST: usize = 400;

/// How the reason begins.
const REASON: &str = "Long because";

/// Lines that are neither empty nor comments, before the tests that stand in the same file.
fn lines_of_code(text: &str) -> usize {
    let is_code =
        |line: &&str| !line.is_empty() && !["//", "/*", "*", "<!--"].iter().any(|mark| line.starts_with(mark));
    // Tests in a file of their own are named anywhere, and end nothing.
    let own = text.split_once("\n#[cfg(test)]\nmod tests {").map_or(text, |(own, _)| own);
    own.lines().map(str::trim).filter(is_code).count()
}

fn gives_a_reason(text: &str) -> bool {
    text.lines().take_while(|line| line.starts_with("//") || line.starts_with("<!--")).any(|line| line.contains(REASON))
}

/// Files of more than [`MOST`] lines without a reason, and how many files were looked at.
pub fn too_long(root: &Path) -> Result<(Vec<String>, usize)> {
    let (mut found, mut looked_at) = (Vec::new(), 0);
    for folder in ["crates", "xtask", "web/src"] {
        for entry in WalkDir::new(root.join(folder)) {
            let entry = entry?;
            let path = entry.path().strip_prefix(root)?.to_string_lossy().into_owned();
            let is_source = [".rs", ".ts", ".vue"].iter().any(|ending| path.ends_with(ending));
            if !entry.file_type().is_file() || !is_source || path.contains("/generated/") {
                continue;
            }
            let text = std::fs::read_to_string(entry.path()).with_context(|| path.clone())?;
            let lines = lines_of_code(&text);
            looked_at += 1;
            if lines > MOST && !gives_a_reason(&text) {
                found.push(format!("{path}: {lines}"));
            }
        }
    }
    Ok((found, looked_at))
}

#[test]
fn comments_empty_lines_and_tests_beside_are_no_lines_of_code() {
    let text = "//! Long because it is one table.\n\nfn a() {\n    // Why.\n}\n\n#[cfg(test)]\nmod tests {}\n";
    assert_eq!(lines_of_code(text), 2);
    assert_eq!(lines_of_code("#[cfg(test)]\nmod tests;\n\nfn a() {\n}\n"), 4, "tests elsewhere hide nothing");
    assert!(gives_a_reason(text) && !gives_a_reason("fn a() {}\n// Long because\n"));
}

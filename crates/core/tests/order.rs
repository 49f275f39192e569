//! The modules of core build on one another in one direction.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

use std::fs;
use std::path::Path;

/// From what needs nothing to what needs all: a module uses only those before it.
const ORDER: [&str; 32] = [
    "units",
    "terms",
    "fault",
    "progress",
    "network",
    "catalogue",
    "site",
    "climate",
    "plan",
    "job",
    "assembly",
    "usual",
    "chain",
    "drip",
    "water",
    "zone",
    "coverage",
    "earthwork",
    "findings",
    "board",
    "layout",
    "regulation",
    "piping",
    "zoning",
    "assess",
    "remedies",
    "runtime",
    "takeoff",
    "verdict",
    "pricing",
    "steps",
    "quick",
];

fn place(module: &str) -> Option<usize> {
    ORDER.iter().position(|m| *m == module)
}

/// Uses against the order in the text of a module: `crate::module`, wherever it stands.
fn against(module: &str, text: &str) -> Vec<String> {
    let own = place(module).unwrap_or_else(|| panic!("{module} has no place in the order"));
    let code = text.lines().filter(|l| !l.trim_start().starts_with("//"));
    code.flat_map(|line| line.split("crate::").skip(1))
        .filter_map(|rest| rest.split(|c: char| !c.is_ascii_lowercase() && c != '_').next())
        .filter(|used| place(used).is_some_and(|p| p > own))
        .map(|used| format!("{module} uses {used}"))
        .collect()
}

/// Reads what lies under a folder; tests may look at everything. Says how many files it read.
fn read(dir: &Path, module: Option<&str>, wrong: &mut Vec<String>) -> usize {
    let mut files = 0;
    for entry in fs::read_dir(dir).unwrap() {
        let path = entry.unwrap().path();
        let stem = path.file_stem().unwrap().to_str().unwrap();
        if stem == "tests" || stem == "lib" {
            continue;
        }
        let module = module.unwrap_or(stem);
        if path.is_dir() {
            files += read(&path, Some(module), wrong);
        } else if path.extension().is_some_and(|e| e == "rs") {
            files += 1;
            let text = fs::read_to_string(&path).unwrap();
            let code = text.split("mod tests {").next().unwrap_or(&text);
            wrong.extend(against(module, code));
        }
    }
    files
}

#[test]
fn no_module_uses_one_that_builds_on_it() {
    let mut wrong = Vec::new();
    let src = Path::new(env!("CARGO_MANIFEST_DIR")).join("src");
    let files = read(&src, None, &mut wrong);
    assert!(files > 80, "only {files} files were read");
    assert!(wrong.is_empty(), "{wrong:#?}");
}

#[test]
fn a_use_against_the_order_is_found() {
    assert_eq!(against("water", "use crate::zone::ZoneInputs;"), ["water uses zone"]);
    assert!(against("zone", "use crate::water::SupplyPoint;").is_empty());
    assert!(against("water", "/// See [`crate::zone`].").is_empty());
}

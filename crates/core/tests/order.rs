//! The modules of core build on one another in one direction.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::path::Path;

/// From what needs nothing to what needs all: a module uses only those before it.
const ORDER: [&str; 33] = [
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
    "planning",
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

/// Source files of a crate by their module path, tests left out.
fn files(dir: &Path, at: &[String], out: &mut BTreeMap<Vec<String>, String>) {
    for entry in fs::read_dir(dir).unwrap() {
        let path = entry.unwrap().path();
        let stem = path.file_stem().unwrap().to_str().unwrap().to_owned();
        if stem == "tests" {
            continue;
        }
        let own: Vec<String> = match stem.as_str() {
            "mod" | "lib" | "main" => at.to_vec(),
            _ => at.iter().cloned().chain([stem]).collect(),
        };
        if path.is_dir() {
            files(&path, &own, out);
        } else if path.extension().is_some_and(|e| e == "rs") {
            let text = fs::read_to_string(&path).unwrap();
            out.insert(own, text.split("mod tests {").next().unwrap_or(&text).to_owned());
        }
    }
}

/// Siblings that a file names: `super::file::…` wherever it stands.
fn siblings(text: &str) -> BTreeSet<String> {
    let code = text.lines().filter(|l| !l.trim_start().starts_with("//"));
    let named = code.flat_map(|line| line.split("super::").skip(1));
    let module = |rest: &str| {
        let name: String = rest.chars().take_while(|c| c.is_ascii_lowercase() || *c == '_').collect();
        rest[name.len()..].starts_with("::").then_some(name)
    };
    named.filter_map(module).collect()
}

/// Whether one file of a folder leads back to itself by way of its siblings.
fn circle(from: &str, uses: &BTreeMap<String, BTreeSet<String>>) -> bool {
    let mut seen = BTreeSet::new();
    let mut open: Vec<&str> = uses[from].iter().map(String::as_str).collect();
    while let Some(next) = open.pop() {
        if next == from {
            return true;
        }
        if seen.insert(next) {
            open.extend(uses.get(next).into_iter().flatten().map(String::as_str));
        }
    }
    false
}

#[test]
fn no_file_leads_back_to_itself_by_way_of_its_siblings() {
    let crates = Path::new(env!("CARGO_MANIFEST_DIR")).parent().unwrap();
    let (mut looked, mut wrong) = (0, Vec::new());
    for krate in fs::read_dir(crates).unwrap() {
        let krate = krate.unwrap().path();
        let mut all = BTreeMap::new();
        files(&krate.join("src"), &[], &mut all);
        let mut folders: BTreeMap<&[String], BTreeMap<String, BTreeSet<String>>> = BTreeMap::new();
        for (path, text) in all.iter().filter(|f| !f.0.is_empty()) {
            let (own, folder) = path.split_last().unwrap();
            folders.entry(folder).or_default().insert(own.clone(), siblings(text));
            looked += 1;
        }
        for (folder, uses) in &folders {
            let name = krate.file_name().unwrap().to_string_lossy();
            wrong.extend(
                uses.keys()
                    .filter(|f| circle(f, uses))
                    .map(|f| format!("{name}: {}::{f}", folder.join("::"))),
            );
        }
    }
    assert!(looked > 300, "only {looked} files were read");
    assert!(wrong.is_empty(), "{wrong:#?}");
}

#[test]
fn a_circle_of_files_is_found() {
    let of = |text: &str| siblings(text);
    let uses = BTreeMap::from([
        ("a".to_owned(), of("use super::b::B;")),
        ("b".to_owned(), of("// super::a::A\nuse super::c::C;")),
        ("c".to_owned(), of("fn f() -> super::b::B {}\nuse super::Whole;")),
    ]);
    assert!(!circle("a", &uses) && circle("b", &uses) && circle("c", &uses));
}

//! One voice: what people read has one term for each thing, no riddles, counts with their nouns. Walks the
//! sources of everything that is shown: sentences, pages, scripts, drawings, documents, commands, tables,
//! README.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

mod rules;
mod texts;

use rules::faults;
use std::path::{Path, PathBuf};
use texts::{Text, texts};

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

/// Files of a folder and below it.
fn files(dir: &Path, found: &mut Vec<PathBuf>) {
    for entry in std::fs::read_dir(dir).unwrap().map(Result::unwrap) {
        let path = entry.path();
        let name = entry.file_name().to_string_lossy().into_owned();
        match path.is_dir() {
            true if ["tests", "benches", "vendor", "demo", "migrations"].contains(&name.as_str()) => {}
            true => files(&path, found),
            false => found.push(path),
        }
    }
}

/// Values that files hold: whoever wrote one with them reads it with them.
const OF_FILES: [&str; 1] = ["metres on the job's own plane"];

fn shown() -> Vec<Text> {
    let mut all = Vec::new();
    for folder in ["words", "web", "drawing", "papers", "cli", "core", "formats", "standins", "store"] {
        let dir = root().join("crates").join(folder);
        for part in ["src", "templates", "assets"] {
            let part = dir.join(part);
            if part.is_dir() {
                files(&part, &mut all);
            }
        }
    }
    all.push(root().join("README.md"));
    all.push(root().join("docs/OPERATIONS.md"));
    let texts = all.iter().flat_map(|f| texts(f));
    texts.filter(|t| !OF_FILES.contains(&t.says.as_str())).collect()
}

#[test]
fn everything_that_is_read_keeps_to_the_terms() {
    let all = shown();
    // A walk that finds next to nothing holds nothing.
    assert!(all.len() > 3_000, "only {} texts found", all.len());
    let wrong: Vec<String> = all
        .iter()
        .flat_map(|text| {
            let found = faults(text);
            found.into_iter().map(move |f| format!("{}: {f}: ‘{}’", text.at, text.says))
        })
        .collect();
    assert!(wrong.is_empty(), "{} texts:\n{}", wrong.len(), wrong.join("\n"));
}

#[test]
fn a_term_that_is_not_ours_is_found() {
    let says = |text: &str| faults(&Text { at: "words/src/x.rs:1".into(), says: text.to_owned() }).len();
    for good in [
        "Add valve",
        "1 head has no valve. Its pipe is not included.",
        "{} heads have no valve.",
        "Weakest head gets {}, minimum {}",
        "Street elbow 3/4 in",
        "{:.0}% of pipe friction",
        "no connection: {n} changes not yet saved",
    ] {
        assert_eq!(says(good), 0, "{good}");
    }
    for bad in [
        "Reckon anew",
        "Nothing to say against this water: it stands",
        "Last head starves",
        "{n} are on no valve yet",
        "the zone takes {}, the heads want {}",
        "Labour and catalogue",
        "Off the board",
        "{:.0} % of pipe friction",
        "Fertiliser for the neighbour",
        "Throws over what is kept dry",
        "The main of the house",
        "That can't be done",
    ] {
        assert!(says(bad) > 0, "{bad}");
    }
}

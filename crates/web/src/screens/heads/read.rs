//! Groups of heads as they are typed.

use crate::fields::Fields;
use fenlo_core::catalogue::{ArcRule, Catalogue, Kind};
use fenlo_core::job::Job;
use fenlo_core::plan::{DripRow, HeadGroup};
use fenlo_core::usual;

pub const NEW_FIELDS: [&str; 4] = ["name", "nozzle", "count", "arc"];
pub const FIELDS: [&str; 21] = [
    "name",
    "nozzle",
    "a90",
    "a180",
    "a270",
    "a360",
    "other",
    "lots",
    "row_emitters",
    "emitter_spacing",
    "arrangement",
    "spacing",
    "row_spacing",
    "pipe",
    "feed_pipe",
    "distance",
    "rise",
    "plants",
    "exposure",
    "soil",
    "slope",
];
pub const COMMON_ARCS: [u16; 4] = [90, 180, 270, 360];

pub fn is_rows(kind: Kind) -> bool {
    matches!(kind, Kind::Dripline | Kind::Tape)
}

/// A new group with what is usual, to be changed in place.
pub fn new_group(job: &Job, f: &mut Fields) -> HeadGroup {
    let count = f.count("count");
    if count == 0 {
        f.fault("count", "enter 1 or more");
    }
    let arc = f.get("arc").parse().unwrap_or(180);
    usual::group(job, f.get("name"), f.get("nozzle"), arc, count)
}

fn counts(f: &mut Fields) -> Vec<(u16, u32)> {
    let mut counts: Vec<(u16, u32)> =
        COMMON_ARCS.iter().map(|arc| (*arc, f.count(&format!("a{arc}")))).collect();
    let other = f.text("other");
    for pair in other.split(',').map(str::trim).filter(|p| !p.is_empty()).take(20) {
        let read = pair.split_once(['x', 'X', '×']).and_then(|(n, arc)| {
            Some((arc.trim().trim_end_matches('°').parse().ok()?, n.trim().parse().ok()?))
        });
        match read {
            Some(pair) => counts.push(pair),
            None => f.fault(
                "other",
                format!(
                    "enter quantity x arc, such as 2 x 120 (got ‘{}’)",
                    pair.chars().take(20).collect::<String>()
                ),
            ),
        }
    }
    counts.retain(|c| c.1 > 0);
    counts
}

/// The group as the form has it now.
pub fn group(catalogue: &Catalogue, f: &mut Fields, was: &HeadGroup) -> HeadGroup {
    let nozzle = catalogue.nozzle(f.get("nozzle"));
    let rows = nozzle.is_some_and(|n| is_rows(n.kind));
    let fixed = nozzle.is_some_and(|n| n.arc_rule == ArcRule::Fixed);
    let pipe = f.parsed("pipe").unwrap_or_else(|| was.pipe.clone());
    let feed_pipe = if f.get("feed_pipe").is_empty() { None } else { f.parsed("feed_pipe") };
    // What listed and drawn heads have alike.
    let common = HeadGroup {
        name: f.text("name"),
        plants: f.choice("plants"),
        exposure: f.choice("exposure"),
        soil: f.choice("soil"),
        slope_percent: f.percent("slope"),
        nozzle: f.text("nozzle"),
        pipe,
        feed_pipe,
        ..was.clone()
    };
    if was.is_drawn() {
        // Places, arcs and throws are the board's; a nozzle that can't be set so is refused there.
        return common;
    }
    let mut wanted = counts(f);
    if fixed {
        // One shape only: whatever arcs were set before are so many heads.
        let n = wanted.iter().map(|c| c.1).sum();
        wanted = vec![(360, n)];
    }
    let all_gone = wanted.iter().all(|c| c.1 == 0);
    if all_gone && f.errors.is_empty() {
        f.fault("lots", "enter 1 or more heads, or delete the area");
    }
    let mut kept = was.clone();
    if fixed {
        kept.listed.iter_mut().for_each(|l| l.arc = 360);
    }
    let row = rows.then(|| {
        if was.row.is_none() {
            return usual::row();
        }
        DripRow { emitters: f.count("row_emitters"), emitter_spacing: f.length("emitter_spacing") }
    });
    HeadGroup {
        drawn: Vec::new(),
        listed: kept.with_counts(&wanted),
        arrangement: serde_json::from_value(f.text("arrangement").into()).unwrap_or(was.arrangement),
        spacing: f.length("spacing"),
        row_spacing: f.length_if_any("row_spacing"),
        distance: f.length("distance"),
        rise: f.length_or_zero("rise"),
        row,
        ..common
    }
}

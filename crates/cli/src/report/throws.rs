//! How far heads throw, as text and as JSON.

use fenlo_core::job::Job;
use fenlo_core::plan::{AssemblyPlace, Valve, WaterSource};
use fenlo_core::zone::{OnPipe, Open, throws};
use fenlo_words as words;
use serde_json::{Value, json};
use std::fmt::Write;

/// How far the heads of a valve throw, by the size of lateral and how many are open at once.
pub fn json(job: &Job, valve: &Valve) -> Vec<Value> {
    let open = |o: &Open| {
        json!({
            "heads": o.heads, "flow_lpm": o.flow.lpm(), "lowest_kpa": o.lowest.kpa(), "throw_m": o.shortest.m(),
            "farthest_m": o.farthest.m(), "in_band": o.works,
        })
    };
    let sizes = throws(job, valve).ok().flatten().map_or_else(Vec::new, |t| t.sizes);
    let size = |on: &OnPipe| json!({ "pipe": on.pipe, "open": on.open.iter().map(open).collect::<Vec<_>>() });
    sizes.iter().map(size).collect()
}

/// At a tap the same as text: what is asked there first.
pub fn text(out: &mut String, job: &Job, valve: &Valve) {
    let u = job.units;
    let tap = job.supply(&valve.supply).is_some_and(|s| s.water == WaterSource::Tap);
    if !tap && valve.assembly.stands != AssemblyPlace::Tap {
        return;
    }
    let Ok(Some(known)) = throws(job, valve) else {
        return;
    };
    for on in &known.sizes {
        let cell = |o: &Open| format!("{} {}", o.heads, words::throws_cell(o, u));
        let cells: Vec<String> = on.open.iter().map(cell).collect();
        line!(
            out,
            "     radius with {}, by heads running: {}",
            words::pipe_title(job, &on.pipe),
            cells.join("; ")
        );
    }
    if let Some(verdict) = words::throws_verdict(job, &known) {
        line!(out, "     {verdict}");
    }
}

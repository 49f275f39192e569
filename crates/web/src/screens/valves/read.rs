//! Valves as they are typed, and heads moved between them.

use crate::error::AppError;
use crate::fields::Fields;
use fenlo_core::job::Job;
use fenlo_core::plan::{Edit, HeadRef, Mainline, Valve};
use fenlo_core::usual;

pub const FIELDS: [&str; 9] =
    ["name", "place", "supply", "model", "filter", "main_pipe", "main_length", "main_rise", "locked"];

pub fn valve(f: &mut Fields, was: &Valve) -> Valve {
    let mainline = if f.get("main_pipe").is_empty() {
        None
    } else {
        f.parsed("main_pipe").map(|pipe| Mainline {
            pipe,
            length: f.length("main_length"),
            rise: f.length_or_zero("main_rise"),
        })
    };
    let place = if f.has("place") { f.text_if_any("place") } else { was.valve_box.clone() };
    Valve {
        name: f.text("name"),
        supply: f.text_if_any("supply").unwrap_or_else(|| was.supply.clone()),
        model: f.text("model"),
        filter: f.text_if_any("filter"),
        mainline,
        valve_box: place,
        locked: f.ticked("locked"),
        ..was.clone()
    }
}

/// The ticked heads onto another valve, or onto a new one behind this. Gives the valve they go to.
pub fn moved(job: &Job, f: &mut Fields, from: &str) -> Result<(Edit, String), AppError> {
    let heads: Vec<HeadRef> = f
        .all("head")
        .filter_map(|h| h.rsplit_once('.'))
        .filter_map(|(group, index)| Some(HeadRef { group: group.to_owned(), index: index.parse().ok()? }))
        .collect();
    if heads.is_empty() {
        return f.stop("select the heads to move first");
    }
    let to = f.text("to");
    if to != "new" {
        return Ok((Edit::assign(heads, Some(to.clone())), to));
    }
    let valve = usual::valve(job, job.valve(from)).ok_or(AppError::NotFound)?;
    let (new, at) = (valve.id.clone(), Some(job.valve_number(from)));
    let edits = vec![Edit::put_at(valve, at), Edit::assign(heads, Some(new.clone()))];
    Ok((Edit::batch(edits), new))
}

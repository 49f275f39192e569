//! Nozzles as they are typed, row by row or as a chart.

use crate::choices::word;
use crate::fields::Fields;
use fenlo_core::catalogue::{Catalogue, ChartRow, Kind, OwnNozzle};
use fenlo_core::job::Job;
use fenlo_core::layout::LAID_OUT;
use fenlo_core::plan::{Edit, EditError, Plan, SetFavourites};
use fenlo_core::units::{Flow, Length, Pressure};
use fenlo_formats::ChartFault;
use fenlo_formats::foreign::Sifted;

pub const FIELDS: [&str; 7] = ["name", "kind", "pressure", "arc", "radius", "flow", "price"];

/// A chart that somebody pasted or picked.
pub struct Chart {
    /// Those that can be used.
    pub nozzles: Vec<OwnNozzle>,
    /// Why others can't.
    pub faults: Vec<ChartFault>,
    pub text: String,
    pub kind: String,
}

/// A name in files for a nozzle of the house.
fn id_of(plan: &Plan, label: &str, kind: Option<Kind>) -> String {
    if let Some(same) = plan.nozzles.iter().find(|n| n.label == label && kind.is_none_or(|k| n.kind == k)) {
        return same.id.clone();
    }
    let slug: String = label
        .to_lowercase()
        .chars()
        .map(|c| if c.is_ascii_alphanumeric() { c } else { '-' })
        .take(40)
        .collect();
    let base = format!("own-{}", slug.trim_matches('-'));
    let taken =
        |id: &str| plan.nozzles.iter().any(|n| n.id == id) || Catalogue::builtin().nozzle(id).is_some();
    (1..)
        .map(|i| if i == 1 { base.clone() } else { format!("{base}-{i}") })
        .find(|id| !taken(id))
        .unwrap_or(base)
}

/// The kind that a form says for a whole chart, by its word; empty: each row says its own.
pub fn kind_of_chart(f: &Fields) -> String {
    let kind = f.text("kind");
    let known = LAID_OUT.into_iter().any(|k| word(&k) == kind);
    if known { kind } else { String::new() }
}

/// A chart as its reader handed it over, held against the job.
pub fn chart(plan: &Plan, f: &Fields, read: Sifted<Vec<OwnNozzle>>) -> Chart {
    let (text, kind) = (f.text("chart"), f.text("kind"));
    let Sifted { found: mut nozzles, faults } = read;
    for nozzle in &mut nozzles {
        nozzle.id = id_of(plan, &nozzle.label, None);
    }
    // Two names may fall on one id.
    for i in 1..nozzles.len() {
        while nozzles[..i].iter().any(|n| n.id == nozzles[i].id) {
            nozzles[i].id.push('x');
        }
    }
    // What the job itself can't hold is said before it is saved.
    let edits = nozzles.iter().cloned().map(Edit::put).collect();
    let faults = match Job::of(plan).apply(&Edit::batch(edits)) {
        Err(EditError::Faults(more)) => {
            let told = more
                .into_iter()
                .take(5)
                .map(|f| ChartFault { line: 1, message: format!("this cannot be saved in the job: {f}") });
            nozzles.clear();
            faults.into_iter().chain(told).collect()
        }
        _ => faults,
    };
    Chart { nozzles, faults, text, kind }
}

/// One typed row: a new nozzle, or one more row of the one of that name.
pub fn row(plan: &Plan, f: &mut Fields) -> OwnNozzle {
    let label = f.text("name");
    if label.is_empty() {
        f.fault("name", "enter a name");
    }
    let kind = f.text("kind");
    let kind = LAID_OUT.into_iter().find(|k| word(k) == kind);
    let kind = kind.unwrap_or(Kind::Spray);
    let arc = f.count("arc");
    if !(20..=360).contains(&arc) && f.is_sound("arc") {
        f.fault("arc", "enter 20 to 360 degrees");
    }
    let row = ChartRow {
        pressure: f.pressure("pressure"),
        arc: arc.min(360) as u16,
        radius: f.length("radius"),
        flow: f.flow("flow"),
    };
    let price = f.text_if_any("price").map(|text| text.parse());
    if matches!(price, Some(Err(_))) {
        f.fault("price", "enter a number such as 1.85");
    }
    let price = price.and_then(Result::ok);
    let positive = [
        ("pressure", row.pressure > Pressure::ZERO),
        ("radius", row.radius > Length::ZERO),
        ("flow", row.flow > Flow::ZERO),
    ];
    for (field, positive) in positive {
        if !positive && f.is_sound(field) {
            f.fault(field, "must be more than zero");
        }
    }
    let id = id_of(plan, &label, Some(kind));
    let same = plan.nozzles.iter().find(|n| n.id == id).cloned();
    let mut nozzle = same.unwrap_or(OwnNozzle { id, label, kind, chart: Vec::new(), price: None });
    let setting = (row.pressure, row.arc);
    nozzle.chart.retain(|r| (r.pressure, r.arc) != setting);
    nozzle.chart.push(row);
    nozzle.price = price.or(nozzle.price);
    nozzle
}

/// What is on the truck once a nozzle is put on it or taken off.
pub fn truck(plan: &Plan, known: &Catalogue, id: &str, on: bool) -> SetFavourites {
    let mut ids = plan.favourites.clone();
    ids.retain(|i| i != id);
    if on && known.nozzle(id).is_some() {
        ids.push(id.to_owned());
    }
    SetFavourites { ids }
}

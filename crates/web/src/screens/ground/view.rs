//! The board and what stands round it, as it is first shown.

use super::sheet;
use crate::assessed::Assessed;
use crate::choices::{self, Choice, Group};
use crate::error::AppError;
use askama::Template;
use fenlo_core::job::Job;
use fenlo_core::units::UnitSystem;
use fenlo_drawing::board::{LAYERS, frame, layer, underlay};

#[derive(Template)]
#[template(path = "ground.html")]
struct Page {
    job: i64,
    seq: i64,
    units: &'static str,
    /// Side of the squares on the paper, metres: 10 ft or 2 m.
    square: f64,
    frame: String,
    view_box: String,
    underlay: String,
    layers: Vec<(&'static str, String)>,
    north: f64,
    empty: bool,
    areas: Vec<Choice>,
    dry: Vec<Choice>,
    places: Vec<Choice>,
    nozzles: Vec<Group>,
    valves: Vec<Choice>,
    pipes: Vec<Choice>,
    sheet: String,
    things: usize,
    /// Layers that can be hidden.
    shown: [(&'static str, &'static str); 6],
}

pub fn units_word(units: UnitSystem) -> &'static str {
    match units {
        UnitSystem::Us => "us",
        UnitSystem::Metric | UnitSystem::MetricBar => "metric",
    }
}

pub fn picture_href(known: &Assessed) -> String {
    known
        .job()
        .site
        .underlay
        .as_ref()
        .map_or(String::new(), |u| format!("/jobs/{}/ground/picture/{}", known.open.id, u.picture))
}

pub fn body(known: &Assessed) -> Result<String, AppError> {
    let plan = known.job();
    let (l, b, r, t) = frame(plan);
    let heads: usize = plan.groups.iter().map(|g| g.drawn.len()).sum();
    let none = Choice { value: String::new(), label: "no valve".into(), chosen: true };
    Ok(Page {
        job: known.open.id,
        seq: known.open.seq,
        units: units_word(plan.units),
        square: if plan.units == UnitSystem::Us { 3.048 } else { 2.0 },
        frame: format!("{l:.3},{b:.3},{r:.3},{t:.3}"),
        view_box: format!("{l:.3} {:.3} {:.3} {:.3}", -t, r - l, t - b),
        underlay: underlay(plan, &picture_href(known)),
        layers: LAYERS.iter().map(|name| (*name, layer(plan, &known.assessment, name))).collect(),
        north: plan.site.north,
        empty: plan.site.is_empty() && heads == 0,
        areas: choices::terms("area", "lawn"),
        dry: choices::terms("dry", "building"),
        places: choices::terms("marker", "valve-box"),
        nozzles: choices::nozzles(plan.catalogue(), "spray-12", plan.units)
            .into_iter()
            .filter(|g| g.options.iter().any(|o| throws(plan, &o.value)))
            .collect(),
        valves: std::iter::once(none).chain(choices::valves(plan, None)).collect(),
        pipes: pipe_choices(plan),
        sheet: sheet::html(known, &[])?,
        things: plan.site.objects.len() + heads,
        shown: [
            ("pipes", "Pipe"),
            ("bores", "Sizes of pipe"),
            ("throws", "Coverage arcs"),
            ("wet", "Wetted area of drip"),
            ("heights", "Elevations"),
            ("names", "Labels and dimensions"),
        ],
    }
    .render()?)
}

/// Whose pipe is drawn: a main, or the lateral of a valve.
fn pipe_choices(plan: &Job) -> Vec<Choice> {
    let main = |s: &fenlo_core::plan::Supply| Choice {
        value: format!("main:{}", s.id),
        label: format!("Mainline of {}", s.name),
        chosen: false,
    };
    let lateral = |v: &fenlo_core::plan::Valve| Choice {
        value: format!("lateral:{}", v.id),
        label: format!("Lateral of valve {} ({})", plan.valve_number(&v.id), v.name),
        chosen: false,
    };
    plan.supplies.iter().map(main).chain(plan.valves.iter().map(lateral)).collect()
}

/// True for nozzles that throw: drip is listed, not drawn.
pub fn throws(plan: &Job, nozzle: &str) -> bool {
    plan.catalogue().nozzle(nozzle).is_some_and(|n| n.radius.is_some())
}

//! Heads that are picked.

use super::figures::Figure;
use crate::assessed::Assessed;
use crate::choices::{self, Choice, Group};
use crate::screens::ground::view::throws;
use askama::Template;
use fenlo_core::plan::{DrawnHead, HeadGroup};
use fenlo_core::units::Length;
use fenlo_words::Working;

#[derive(Template)]
#[template(path = "parts/sheet_heads.html")]
pub struct Heads {
    job: i64,
    ids: String,
    title: String,
    figures: Vec<Figure>,
    single: bool,
    /// All are inlets of drip: nothing to turn, and a product that the area's sheet chooses.
    inlet: bool,
    /// The area of a single inlet.
    area: String,
    several: bool,
    locked: bool,
    nozzles: Vec<Group>,
    valves: Vec<Choice>,
    arc: String,
    facing: String,
    radius: String,
    full: String,
    x: String,
    y: String,
}

pub fn head_sheet(known: &Assessed, heads: &[(&HeadGroup, &DrawnHead)]) -> Heads {
    let plan = known.job();
    let u = plan.units;
    let (group, head) = heads[0];
    let nozzle = plan.catalogue().nozzle(&group.nozzle);
    let full = nozzle.and_then(|n| n.radius).unwrap_or(group.spacing);
    let same = |f: fn(&(&HeadGroup, &DrawnHead)) -> String| {
        if heads.iter().all(|h| f(h) == f(&heads[0])) { f(&heads[0]) } else { String::new() }
    };
    let single = heads.len() == 1;
    let mut figures = Vec::new();
    if single {
        let index = group.drawn.iter().position(|d| d.id == head.id).map_or(0, |i| i as u32);
        let zone =
            head.valve.as_deref().and_then(|v| known.assessment.zone(v)).and_then(|z| z.zone.as_ref().ok());
        if let Some((zone, at)) = zone.and_then(|z| {
            Some((z, z.heads.iter().position(|r| r.head.group == group.id && r.head.index == index)?))
        }) {
            let workings = fenlo_words::head_workings(zone, at, plan);
            let result = &zone.heads[at];
            for (label, value) in [
                ("Pressure", result.nozzle.show(u)),
                ("Flow", result.flow.show(u)),
                ("Radius", String::new()),
            ] {
                if label == "Radius" && group.drip.is_some() {
                    continue;
                }
                let working = workings.iter().find(|w| w.0 == label).map(|w| w.1.clone());
                let value = if value.is_empty() {
                    working.as_ref().map_or(String::new(), |w| w.result.clone())
                } else {
                    value
                };
                figures.push(Figure { label, value, working });
            }
        } else if group.drip.is_none() {
            let value = format!("{} at rated pressure", head.radius.unwrap_or(full).show(u));
            let working = Working::new(
                "chart radius, or the reduced setting",
                "typical for this type; no pressure is known until it is on a valve",
            )
            .with("chart", full.show(u))
            .with("radius set to", head.radius.map_or_else(|| "full".to_owned(), |r| r.show(u)));
            figures.push(Figure { label: "Radius", working: Some(working.gives(value.clone())), value });
        }
    }
    let valve = same(|h| h.1.valve.clone().unwrap_or_default());
    let any =
        std::iter::once(Choice { value: String::new(), label: "no valve".into(), chosen: valve.is_empty() });
    Heads {
        job: known.open.id,
        ids: heads.iter().map(|h| h.1.id.as_str()).collect::<Vec<_>>().join(","),
        title: if single && group.drip.is_some() {
            format!("Inlet of {}", group.name)
        } else if single {
            nozzle.map_or_else(|| "Head".to_owned(), |n| fenlo_words::nozzle(n, u))
        } else {
            format!("{} heads", heads.len())
        },
        figures,
        single,
        inlet: heads.iter().all(|h| h.0.drip.is_some()),
        area: group.area.clone().unwrap_or_default(),
        several: heads.len() > 2,
        locked: heads.iter().all(|h| h.1.locked),
        nozzles: choices::nozzles(plan.catalogue(), &same(|h| h.0.nozzle.clone()), u)
            .into_iter()
            .filter(|g| g.options.iter().any(|o| throws(plan, &o.value)))
            .collect(),
        valves: any.chain(choices::valves(plan, Some(&valve))).collect(),
        arc: same(|h| h.1.arc.to_string()),
        facing: same(|h| format!("{:.0}", h.1.facing)),
        radius: if heads.iter().all(|h| h.1.radius == head.radius) {
            head.radius.unwrap_or(full).field(u)
        } else {
            String::new()
        },
        full: full.show(u),
        x: Length::from_m(head.at.x).field(u),
        y: Length::from_m(head.at.y).field(u),
    }
}

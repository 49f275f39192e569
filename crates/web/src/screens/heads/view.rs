//! Groups of heads as they are shown.

use super::read::{COMMON_ARCS, is_rows};
use crate::assessed::Assessed;
use crate::choices::{self, Choice, Group};
use crate::error::{AppError, escape};
use askama::Template;
use fenlo_core::catalogue::ArcRule;
use fenlo_core::job::Job;
use fenlo_core::plan::HeadGroup;
use fenlo_core::units::{Flow, Length, UnitSystem};

#[derive(Template)]
#[template(path = "heads.html")]
struct Page {
    job: i64,
    total: String,
    groups: String,
    nozzles: Vec<Group>,
}

#[derive(Template)]
#[template(path = "parts/group.html")]
struct Card<'a> {
    u: UnitSystem,
    job: i64,
    id: &'a str,
    form: String,
    name: &'a str,
    says: String,
    nozzles: Vec<Group>,
    drawn: bool,
    fixed: bool,
    rows: bool,
    rows_word: &'static str,
    spacing_word: &'static str,
    a90: String,
    a180: String,
    a270: String,
    a360: String,
    other: String,
    row_emitters: String,
    emitter_spacing: String,
    arrangements: Vec<Choice>,
    spacing: String,
    row_spacing: String,
    pipes: Vec<Choice>,
    feeds: Vec<Choice>,
    distance: String,
    rise: String,
    plants: Vec<Choice>,
    exposures: Vec<Choice>,
    soils: Vec<Choice>,
    slope: String,
}

pub fn body(known: &Assessed) -> Result<String, AppError> {
    let cards: Result<String, AppError> = known.job().groups.iter().map(|g| card(known, g)).collect();
    Ok(Page {
        job: known.open.id,
        total: total(known),
        groups: cards?,
        nozzles: choices::nozzles(known.job().catalogue(), "spray-12", known.job().units),
    }
    .render()?)
}

pub fn total(known: &Assessed) -> String {
    let plan = known.job();
    let heads: u32 = plan.groups.iter().map(HeadGroup::count).sum();
    let valves = plan.valves.len();
    let flow: Flow = plan.groups.iter().map(|g| nominal(plan, g)).sum();
    format!(
        "<b>{}</b>, <b>{}</b> at rated pressure, on <b>{valves}</b> valve{}",
        fenlo_words::counted_or(heads as usize, "head", "row"),
        flow.show(plan.units),
        if valves == 1 { "" } else { "s" }
    )
}

fn nominal(plan: &Job, group: &HeadGroup) -> Flow {
    let nozzle = plan.catalogue().nozzle(&group.nozzle);
    nozzle.map_or(Flow::ZERO, |n| group.heads().map(|(i, arc, _)| group.flow_of(n, i, arc)).sum())
}

pub fn says(known: &Assessed, group: &HeadGroup) -> String {
    let plan = known.job();
    let u = plan.units;
    let mut valves: Vec<String> = Vec::new();
    for valve in plan.valves.iter().filter(|v| group.is_on(&v.id)) {
        let n = plan.valve_number(&valve.id);
        let low = known.assessment.zone(&valve.id).and_then(|z| z.zone.as_ref().ok()).map(|z| {
            let of_group = z.heads.iter().filter(|h| h.head.group == group.id).map(|h| h.nozzle);
            of_group.fold(z.highest().nozzle, |a, b| a.min(b))
        });
        let low = low.map_or(String::new(), |p| format!(", lowest {}", p.show(u)));
        valves.push(format!(
            r#"<a href="/jobs/{}/valves?valve={}">valve {n}</a>{low}"#,
            known.open.id,
            escape(&valve.id)
        ));
    }
    let loose = group.heads_on(None).len();
    if loose > 0 {
        valves.push(format!("<b>{loose} not on a valve</b>"));
    }
    let where_to = if group.is_drawn() {
        format!(r#" <a href="/jobs/{}/ground">on the site plan</a>"#, known.open.id)
    } else {
        String::new()
    };
    format!(
        "{}{where_to}, {} · {}",
        fenlo_words::counted(group.count() as usize, "head"),
        nominal(known.job(), group).show(u),
        valves.join(" · ")
    )
}

pub fn card(known: &Assessed, group: &HeadGroup) -> Result<String, AppError> {
    let u = known.job().units;
    let nozzle = known.job().catalogue().nozzle(&group.nozzle);
    let rows = nozzle.is_some_and(|n| is_rows(n.kind));
    let counts = group.counts_by_arc();
    let of = |arc: u16| counts.iter().find(|c| c.0 == arc).map_or(String::new(), |c| c.1.to_string());
    let other: Vec<String> =
        counts.iter().filter(|c| !COMMON_ARCS.contains(&c.0)).map(|c| format!("{} x {}", c.1, c.0)).collect();
    Ok(Card {
        u,
        job: known.open.id,
        id: &group.id,
        form: group.id.clone(),
        name: &group.name,
        says: says(known, group),
        drawn: group.is_drawn(),
        nozzles: choices::nozzles(known.job().catalogue(), &group.nozzle, known.job().units),
        fixed: nozzle.is_some_and(|n| n.arc_rule == ArcRule::Fixed),
        rows,
        rows_word: if rows { "Rows" } else { "Number of heads" },
        spacing_word: if rows { "Row spacing" } else { "Head spacing" },
        a90: of(90),
        a180: of(180),
        a270: of(270),
        a360: of(360),
        other: other.join(", "),
        row_emitters: group.row.map_or(String::new(), |r| r.emitters.to_string()),
        emitter_spacing: group.row.map_or(String::new(), |r| small(r.emitter_spacing, u)),
        arrangements: choices::terms("lateral", &choices::word(&group.arrangement)),
        spacing: small(group.spacing, u),
        row_spacing: group.row_spacing.map_or(String::new(), |s| s.field(u)),
        pipes: choices::pipes(Some(&group.pipe), None),
        feeds: choices::pipes(group.feed_pipe.as_ref(), Some("same as lateral")),
        distance: group.distance.field(u),
        rise: group.rise.field(u),
        plants: choices::terms("plants", &choices::word(&group.plants)),
        exposures: choices::terms("exposure", &choices::word(&group.exposure)),
        soils: choices::terms("soil", &choices::word(&group.soil)),
        slope: format!("{}", group.slope_percent),
    }
    .render()?)
}

/// Drip spacings are spoken of in inches.
fn small(length: Length, units: UnitSystem) -> String {
    if units == UnitSystem::Us && length.ft() < 3.0 {
        let inches = (length.inches() * 100.0).round() / 100.0;
        format!("{inches} in")
    } else {
        length.field(units)
    }
}

//! Pressure as it is shown.

use crate::assessed::Assessed;
use crate::choices::{self, Choice};
use crate::error::AppError;
use crate::place::{Here, Screen};
use crate::screens::findings;
use askama::Template;
use fenlo_core::job::Job;
use fenlo_core::plan::{AssemblyPlace, Valve, WaterSource};
use fenlo_core::regulation::{Comparison, RegulationOption, compare};
use fenlo_core::units::{Pressure, UnitSystem};
use fenlo_core::verdict::Subject;
use fenlo_core::zone::{OnPipe, ZoneAssessment, throws};
use fenlo_drawing::{WalkDrawing, pressure_walk};
use fenlo_words::{Working, head_workings, velocity_working, walk_note, walk_part, zone_workings};

#[derive(Template)]
#[template(path = "pressure.html")]
struct Page {
    job: i64,
    valves: Vec<Choice>,
    empty: Option<String>,
    content: String,
}

#[derive(Template)]
#[template(path = "parts/walk.html")]
struct Walk {
    job: i64,
    here: String,
    running: String,
    svg: String,
    unit: &'static str,
    steps: Vec<(String, String, String, String)>,
    says: String,
    facts: Vec<Fact>,
    working: Working,
    throws: Option<Throws>,
    valve_name: String,
    why: String,
    options: Vec<OptionView>,
    findings: String,
}

/// How far the heads throw, so many of them open at once.
struct Throws {
    /// At a tap it is what everybody asks.
    open: bool,
    verdict: String,
    rule: String,
    /// The sizes, and which is the one there is.
    pipes: Vec<(String, bool)>,
    rows: Vec<ThrowRow>,
}
struct ThrowRow {
    heads: usize,
    cells: Vec<ThrowCell>,
}
struct ThrowCell {
    text: String,
    works: bool,
    working: Working,
}

/// A figure of the walk, with how it came about.
struct Fact {
    label: &'static str,
    value: String,
    class: &'static str,
    working: Working,
}

/// A way to regulate, with the same four figures as every other.
pub struct OptionView {
    pub label: String,
    pub range: String,
    pub flow: String,
    pub spread: String,
    pub pieces: String,
    pub notes: Vec<String>,
    pub recommended: bool,
    pub looked: bool,
    pub edit: Option<String>,
    pub look: String,
    pub working: Working,
}

/// The options of a comparison as shown; `look` makes the address that draws one over the walk.
pub fn options(
    c: &Comparison,
    units: UnitSystem,
    currency: &str,
    looked: Option<usize>,
    look: impl Fn(usize) -> String,
) -> Vec<OptionView> {
    let view = |(i, o): (usize, &RegulationOption)| OptionView {
        label: fenlo_words::way(o.way, units),
        range: format!("{}–{}", o.zone.lowest().nozzle.number(units), o.zone.highest().highest.number(units)),
        flow: o.zone.flow.show(units),
        spread: format!("{:.0}%", o.zone.spread * 100.0),
        pieces: fenlo_words::takes(o, currency),
        notes: o.notes.iter().map(|n| fenlo_words::note(*n, units)).collect(),
        recommended: i == c.recommended,
        looked: looked == Some(i),
        edit: o.edit.as_ref().and_then(|e| serde_json::to_string(e).ok()),
        look: look(i),
        working: Working::new(
            "zone solved again with this regulator",
            "solved network; Hazen-Williams; orifice flow",
        )
        .with("at the start of the lateral", o.zone.lateral_inlet.show(units))
        .with(
            "lowest, highest nozzle pressure",
            format!("{}, {}", o.zone.lowest().nozzle.show(units), o.zone.highest().highest.show(units)),
        )
        .with(
            "pressure variation",
            format!("(highest − lowest) ÷ {}", o.zone.lowest().band.best.show_round(units)),
        )
        .gives(format!("{}, {:.0}%", o.zone.flow.show(units), o.zone.spread * 100.0)),
    };
    c.options.iter().enumerate().map(view).collect()
}

/// The walk of a zone, with an option drawn over it.
pub fn drawing(plan: &Job, zone: &ZoneAssessment, with: Option<&ZoneAssessment>) -> String {
    let catalogue = plan.catalogue();
    let kind = plan
        .group(&zone.lowest().head.group)
        .and_then(|g| catalogue.nozzle(&g.nozzle))
        .map_or("head", |n| fenlo_words::kind(n.kind));
    pressure_walk(WalkDrawing {
        steps: &zone.walk,
        with_remedy: with.map(|z| z.walk.as_slice()),
        band: zone.lowest().band,
        kind,
        units: plan.units,
    })
}

pub fn body(known: &Assessed, pick: Option<&str>, look: Option<usize>) -> Result<String, AppError> {
    let plan = known.job();
    let valve = pick.and_then(|id| plan.valve(id)).or_else(|| plan.valves.first());
    let zone = valve.and_then(|v| known.assessment.zone(&v.id)).map(|z| &z.zone);
    let (empty, content) = match (valve, zone) {
        (Some(valve), Some(Ok(zone))) => (None, walk(known, valve, zone, look)?),
        (Some(_), Some(Err(fault))) => {
            (Some(format!("No results yet: {}.", fenlo_words::zone_fault(fault, plan.units))), String::new())
        }
        _ => (Some("No valves yet. Add heads first, then assign them to valves.".into()), String::new()),
    };
    Ok(Page {
        job: known.open.id,
        valves: choices::valves(plan, valve.map(|v| v.id.as_str())),
        empty,
        content,
    }
    .render()?)
}

fn walk(
    known: &Assessed,
    valve: &Valve,
    zone: &ZoneAssessment,
    look: Option<usize>,
) -> Result<String, AppError> {
    let plan = known.job();
    let u = plan.units;
    let number = plan.valve_number(&valve.id);
    let water = plan.supply(&valve.supply).map_or(&WaterSource::Street, |s| &s.water);
    let comparison = compare(&Job::of(plan), valve);
    let looked = look.and_then(|i| comparison.as_ref()?.options.get(i));
    let low = zone.lowest();
    let static_pressure = zone.walk.first().map_or(Pressure::ZERO, |s| s.left);
    let lateral = zone.lateral_inlet - low.inlet;
    let costliest = zone.walk.iter().skip(1).max_by(|a, b| a.cost.kpa().total_cmp(&b.cost.kpa()));
    let says = format!(
        "Static pressure is {}; the weakest head gets {}. {} Its lateral uses {}.",
        static_pressure.show(u),
        low.nozzle.show(u),
        costliest.map_or(String::new(), |s| format!(
            "Largest loss: {}, {}.",
            fenlo_words::inside(&walk_part(&s.part)),
            s.cost.show(u)
        )),
        lateral.show(u)
    );
    let word = Here::picked(Screen::Pressure, valve.id.clone()).word();
    let found = known.diagnoses(&Subject::Valve(valve.id.clone()));
    Ok(Walk {
        job: known.open.id,
        here: word.clone(),
        running: format!("{} at {}", valve.name, zone.flow.show(u)),
        svg: drawing(plan, zone, looked.map(|o| &o.zone)),
        unit: Pressure::unit(u),
        steps: zone
            .walk
            .iter()
            .map(|s| (walk_part(&s.part), s.cost.number(u), s.left.number(u), walk_note(s.note, u)))
            .collect(),
        says,
        facts: facts(plan, water, zone, static_pressure),
        working: Working::new(
            "friction: h = 10.67·L·Q^1.852 / (C^1.852·d^4.8704); flow at a head: q = q₀·√(p/p₀)",
            "Hazen and Williams 1905; orifice flow; solved together by Newton's method (Todini and Pilati \
                1988)",
        )
        .with("heads", zone.heads.len().to_string())
        .with(
            "flow, at rated pressure / actual",
            format!("{} / {}", zone.nominal_flow.show(u), zone.flow.show(u)),
        )
        .with("fittings allowance", format!("{:.0}% of pipe friction", plan.rules.fittings * 100.0))
        .with("iterations", zone.iterations.to_string())
        .with("flow balance error", format!("{:.0e} L/min", zone.residual.lpm().max(1e-12)))
        .gives(format!("{} at the weakest head", low.nozzle.show(u))),
        throws: throws_of(plan, valve),
        valve_name: format!("valve {number}"),
        why: comparison.as_ref().map_or(String::new(), |c| fenlo_words::why(c.why, u)),
        options: comparison
            .as_ref()
            .map(|c| {
                options(c, u, &plan.rules.buying.currency, look, |i| {
                    format!("/jobs/{}/pressure?valve={}&look={i}", known.open.id, valve.id)
                })
            })
            .unwrap_or_default(),
        findings: findings::render(
            known.open.id,
            known.job(),
            word,
            "All heads in range, all parts within limits.",
            &found,
        )?,
    }
    .render()?)
}

/// The table of throws; none for heads that have none, and for a head on its own.
fn throws_of(job: &Job, valve: &Valve) -> Option<Throws> {
    let u = job.units;
    let known = throws(job, valve).ok()??;
    let first = known.sizes.first().filter(|on| on.open.len() > 1)?;
    let row = |i: usize| {
        let cell = |on: &OnPipe| {
            let open = on.open.get(i)?;
            Some(ThrowCell {
                text: fenlo_words::throws_cell(open, u),
                works: open.works,
                working: fenlo_words::throws_working(open, u),
            })
        };
        ThrowRow { heads: first.open[i].heads, cells: known.sizes.iter().filter_map(cell).collect() }
    };
    let tap = job.supply(&valve.supply).is_some_and(|s| s.water == WaterSource::Tap);
    Some(Throws {
        open: tap || valve.assembly.stands == AssemblyPlace::Tap,
        rule: fenlo_words::tube_rule(u),
        verdict: fenlo_words::throws_verdict(job, &known)?,
        pipes: (known.sizes.iter().enumerate())
            .map(|(i, on)| (fenlo_words::pipe_title(job, &on.pipe), i == known.now))
            .collect(),
        rows: (0..first.open.len()).map(row).collect(),
    })
}

fn facts(plan: &Job, water: &WaterSource, zone: &ZoneAssessment, static_pressure: Pressure) -> Vec<Fact> {
    let u = plan.units;
    let (said, source) = fenlo_words::static_from(water);
    let (low, high) = (zone.lowest(), zone.highest());
    let of_head = |at: usize| head_workings(zone, at, plan).into_iter().next().map(|w| w.1);
    let of_zone = |name: &str| zone_workings(zone, u).into_iter().find(|w| w.0 == name).map(|w| w.1);
    let walk = |from: &str| {
        zone.walk
            .iter()
            .map(|s| format!("{} {}", fenlo_words::inside(&walk_part(&s.part)), (-s.cost).show(u)))
            .take_while(|s| !s.starts_with(from))
            .skip(1)
            .collect::<Vec<_>>()
            .join(", ")
    };
    let plain = |formula: &str, source: &str, value: &str| Some(Working::new(formula, source).gives(value));
    let thumb = (static_pressure - plan.rules.rule_of_thumb).show(u);
    let connection = zone.at_connection.show(u);
    let lateral = zone.lateral_inlet.show(u);
    let standing = zone.standing.at_rest.show(u);
    let figures: [(&'static str, String, &'static str, Option<Working>); 9] = [
        ("Static pressure", static_pressure.show(u), "", plain(said, source, &static_pressure.show(u))),
        (
            "At the point of connection",
            connection.clone(),
            "",
            plain(
                &format!("static pressure less shared losses at {}: {}", zone.flow.show(u), walk("mainline")),
                "calculated",
                &connection,
            ),
        ),
        (
            "At lateral start",
            lateral.clone(),
            "",
            plain(
                &format!("static pressure less all losses before the lateral: {}", walk("first section")),
                "calculated",
                &lateral,
            ),
        ),
        (
            "Lowest nozzle pressure",
            low.nozzle.show(u),
            if zone.starved().is_some() { "stop" } else { "" },
            of_head(zone.worst),
        ),
        ("Highest nozzle pressure", high.highest.show(u), "", of_head(zone.best)),
        ("Pressure variation", format!("{:.0}%", zone.spread * 100.0), "", of_zone("Pressure variation")),
        ("Highest velocity", zone.velocity.show(u), "", Some(velocity_working(zone, &plan.rules, u))),
        (
            "Pressure with no flow",
            standing.clone(),
            "",
            plain(
                "highest static pressure (or regulator setting) plus elevation to the lowest point: what a \
                    closed end sees",
                "calculated",
                &standing,
            ),
        ),
        (
            "Rule of thumb",
            thumb.clone(),
            "",
            // The rule is one of city water: pumps and tanks have no street.
            water.is_mains().then(|| {
                Working::new(
                    format!("static pressure − {} (rule of thumb)", plan.rules.rule_of_thumb.show(u)),
                    "for comparison only",
                )
                .gives(&thumb)
            }),
        ),
    ];
    figures
        .into_iter()
        .filter_map(|(label, value, class, working)| Some(Fact { label, value, class, working: working? }))
        .collect()
}

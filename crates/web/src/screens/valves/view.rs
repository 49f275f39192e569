//! Valves as they are shown: the rack, one lane a valve, and the one that is picked.

use crate::assessed::Assessed;
use crate::choices::{self, Choice};
use crate::error::AppError;
use crate::place::{Here, Screen};
use crate::screens::findings;
use askama::Template;
use fenlo_core::assess::ZoneReport;
use fenlo_core::catalogue::Role;
use fenlo_core::findings::{Weight, reasons_apart};
use fenlo_core::job::Job;
use fenlo_core::plan::{Edit, HeadGroup, Plan, Regulation, Valve};
use fenlo_core::units::UnitSystem;
use fenlo_core::verdict::{Subject, Total};
use fenlo_core::zone::{HeadResult, HeadState};
use fenlo_core::zoning::{ValveChange, changes};
use fenlo_drawing::{FlowBar, PressureBar, flow_bar, pressure_glyph, valve_badge};
use fenlo_words::Working;

#[derive(Template)]
#[template(path = "valves.html")]
struct Page {
    job: i64,
    total: String,
    /// Heads on no valve.
    loose: usize,
    /// Heads that a new split may move.
    placed: bool,
    count: usize,
    least: usize,
    why: Vec<String>,
    later: Vec<String>,
    lanes: Vec<String>,
    detail: Option<String>,
}

#[derive(Template)]
#[template(path = "parts/lane.html")]
struct Lane {
    href: String,
    chosen: bool,
    badge: String,
    name: String,
    locked: bool,
    kinds: String,
    fault: Option<String>,
    bar: String,
    flow: String,
    design: String,
    glyph: String,
    range: String,
    best: String,
    rate: String,
    regulator: String,
    total: Total,
}

#[derive(Template)]
#[template(path = "parts/valve_detail.html")]
struct Detail {
    u: UnitSystem,
    job: i64,
    id: String,
    badge: String,
    name: String,
    supplies: Vec<Choice>,
    models: Vec<Choice>,
    filters: Vec<Choice>,
    mains: Vec<Choice>,
    main_length: String,
    main_rise: String,
    boxes: Vec<Choice>,
    locked: bool,
    groups: Vec<GroupHeads>,
    others: Vec<Choice>,
    never: Vec<String>,
    better_apart: Vec<String>,
    workings: Vec<(&'static str, Working)>,
    findings: String,
}

/// How one head comes to its figures.
#[derive(Template)]
#[template(path = "parts/head_how.html")]
pub struct HeadHow {
    pub title: String,
    pub workings: Vec<(&'static str, Working)>,
}

struct GroupHeads {
    name: String,
    nozzle: String,
    heads: Vec<HeadChip>,
}

struct HeadChip {
    value: String,
    number: u32,
    arc: String,
    pressure: String,
    flow: String,
    class: &'static str,
}

pub fn body(known: &Assessed, pick: Option<&str>) -> Result<String, AppError> {
    let plan = known.job();
    let picked = pick.and_then(|id| plan.valve(id)).or_else(|| plan.valves.first());
    let a = &known.assessment;
    let heads: usize = plan.groups.iter().map(|g| g.count() as usize).sum();
    let loose =
        if a.unassigned > 0 { format!(", <b>{} not on a valve</b>", a.unassigned) } else { String::new() };
    let valves = plan.valves.len();
    let total = match (valves, heads) {
        (0, 0) => String::new(),
        _ => format!(
            "<b>{valves}</b> valve{} for {}; minimum <b>{}</b> at target pressure{loose}",
            if valves == 1 { "" } else { "s" },
            fenlo_words::counted_or(heads, "head", "row"),
            a.bound.valves
        ),
    };
    Ok(Page {
        job: known.open.id,
        total,
        loose: a.unassigned,
        placed: plan.valves.iter().any(|v| !v.locked && plan.groups.iter().any(|g| g.is_on(&v.id))),
        count: plan.valves.len(),
        least: a.bound.valves,
        later: a.later(plan).iter().map(|l| fenlo_words::later_said(l, plan.units)).collect(),
        why: a.bound.classes.iter().map(|c| fenlo_words::class_bound(c, plan.units)).collect(),
        lanes: lanes(known, picked.map(|v| v.id.as_str()))?,
        detail: picked.map(|v| detail(known, v)).transpose()?,
    }
    .render()?)
}

/// A split that is looked at.
#[derive(Template)]
#[template(path = "parts/split_look.html")]
struct Look {
    job: i64,
    seq: i64,
    /// A valve each: its badge, what it is called, what would become of it.
    changes: Vec<(String, String, Vec<String>)>,
    kept: usize,
    valves: (usize, usize),
}

/// What an edit of the valves would change, with the button that does it.
pub fn would_change(known: &Assessed, edit: Option<&Edit>) -> Result<String, AppError> {
    let before = known.job();
    let after = match edit {
        Some(edit) => before.apply(edit).map_err(|e| AppError::Bad(e.to_string()))?.0,
        None => before.clone(),
    };
    let found = changes(before, &after);
    let number = |c: &ValveChange| c.was.as_ref().or(c.now.as_ref()).map_or(0, |s| s.number);
    let said = |c: &ValveChange| {
        let (name, lines) = fenlo_words::valve_change(c, before.units);
        (valve_badge(number(c)), name, lines)
    };
    let touched = found.iter().filter(|c| c.was.is_some()).count();
    Ok(Look {
        job: known.open.id,
        seq: known.open.seq,
        changes: found.iter().map(said).collect(),
        kept: before.valves.len() - touched,
        valves: (before.valves.len(), after.valves.len()),
    }
    .render()?)
}

pub fn lanes(known: &Assessed, chosen: Option<&str>) -> Result<Vec<String>, AppError> {
    known
        .job()
        .valves
        .iter()
        .zip(&known.assessment.zones)
        .map(|(v, z)| lane(known, v, z, chosen == Some(v.id.as_str())))
        .collect()
}

fn lane(known: &Assessed, valve: &Valve, report: &ZoneReport, chosen: bool) -> Result<String, AppError> {
    let plan = known.job();
    let u = plan.units;
    let number = plan.valve_number(&valve.id);
    let supply = known.assessment.supply(&valve.supply);
    let design = supply.map(|s| &s.design);
    let design = design.and_then(|d| d.allowance(&valve.id).flow.or_else(|| d.for_valve(&valve.id)));
    let over = report.findings.iter().any(|f| f.code() == "flow-over-design");
    let mut lane = Lane {
        href: format!("/jobs/{}/valves?valve={}", known.open.id, valve.id),
        chosen,
        badge: valve_badge(number),
        name: valve.name.clone(),
        locked: valve.locked,
        kinds: kinds(plan, valve),
        fault: None,
        bar: String::new(),
        flow: String::new(),
        design: design.map_or("unknown".into(), |d| d.show(u)),
        glyph: String::new(),
        range: String::new(),
        best: String::new(),
        rate: String::new(),
        regulator: regulator(valve, u),
        total: known.verdict().total_at(&Subject::Valve(valve.id.clone())),
    };
    match &report.zone {
        Err(fault) => lane.fault = Some(fenlo_words::zone_fault(fault, u)),
        Ok(z) => {
            let (low, high) = (z.lowest(), z.highest());
            lane.bar = flow_bar(FlowBar { flow: z.flow, design, over, number }, u);
            lane.flow = z.flow.show(u);
            lane.glyph = pressure_glyph(PressureBar::of(z), u);
            let range = (low.nozzle.number(u), high.highest.show(u));
            lane.range = if high.highest.show(u).starts_with(&format!("{} ", range.0)) {
                range.1
            } else {
                format!("{}–{}", range.0, range.1)
            };
            lane.best = low.band.best.show_round(u);
            lane.rate = z.rate.show(u);
        }
    }
    Ok(lane.render()?)
}

fn kinds(plan: &Job, valve: &Valve) -> String {
    let catalogue = plan.catalogue();
    let on = plan.groups.iter().filter_map(|g| {
        let n = g.heads_on(Some(&valve.id)).len();
        let label = catalogue
            .nozzle(&g.nozzle)
            .map_or_else(|| g.nozzle.clone(), |n| fenlo_words::nozzle(n, plan.units));
        (n > 0).then(|| {
            if g.drip.is_some() {
                format!(
                    "{}, {}",
                    fenlo_words::counted(emitters_on(plan, g, &valve.id), "emitter"),
                    fenlo_words::inside(&label)
                )
            } else if g.row.is_some() {
                format!("{n} rows of {}", fenlo_words::inside(&label))
            } else {
                format!("{n} × {}", fenlo_words::inside(&label))
            }
        })
    });
    let all: Vec<String> = on.collect();
    if all.is_empty() { "no heads".into() } else { all.join(", ") }
}

/// Emitters of the parts of a group's drip that a valve waters.
fn emitters_on(plan: &Job, group: &HeadGroup, valve: &str) -> usize {
    let parts = fenlo_core::drip::lay(plan, group).unwrap_or_default();
    let mine = parts.iter().zip(&group.drawn).filter(|(_, h)| h.valve.as_deref() == Some(valve));
    mine.map(|(laid, _)| laid.emitters.len()).sum()
}

pub fn regulator(valve: &Valve, u: UnitSystem) -> String {
    match valve.regulation {
        Regulation::None => "no regulator".into(),
        Regulation::Valve { set } => format!("regulator {}", set.show_round(u)),
        Regulation::Inline { set } => format!(
            "{}in-line regulator {}",
            if valve.filter.is_some() { "filter, " } else { "" },
            set.show_round(u)
        ),
        Regulation::Body { set } => format!("regulated bodies {}", set.show_round(u)),
    }
}

fn detail(known: &Assessed, valve: &Valve) -> Result<String, AppError> {
    let plan = known.job();
    let u = plan.units;
    let catalogue = plan.catalogue();
    let report = known.assessment.zone(&valve.id);
    let zone = report.and_then(|z| z.zone.as_ref().ok());
    let on: Vec<&HeadGroup> = plan.groups.iter().filter(|g| g.is_on(&valve.id)).collect();
    let groups = on
        .iter()
        .map(|g| GroupHeads {
            name: g.name.clone(),
            nozzle: catalogue.nozzle(&g.nozzle).map_or(String::new(), |n| fenlo_words::nozzle(n, u)),
            heads: g
                .heads()
                .filter(|h| h.2 == Some(&valve.id))
                .map(|(index, arc, _)| {
                    let result = zone
                        .and_then(|z| z.heads.iter().find(|h| h.head.group == g.id && h.head.index == index));
                    HeadChip {
                        value: format!("{}.{index}", g.id),
                        number: index + 1,
                        arc: if g.row.is_some() { "row".into() } else { format!("{arc}°") },
                        pressure: result.map_or(String::new(), |r| r.nozzle.show(u)),
                        flow: result.map_or(String::new(), |r| r.flow.show(u)),
                        class: match result.map(HeadResult::state) {
                            Some(HeadState::Starved) => "low",
                            Some(HeadState::Over) => "high",
                            Some(HeadState::Works) | None => "",
                        },
                    }
                })
                .collect(),
        })
        .collect();
    // What may not come here or would be better elsewhere, and why: one line for each other area.
    let (mut never, mut better_apart) = (Vec::new(), Vec::new());
    for g in plan.groups.iter().filter(|g| !on.iter().any(|o| o.id == g.id)) {
        let reasons = on.iter().flat_map(|o| reasons_apart(plan, o, g));
        let Some(apart) = reasons.max_by_key(|a| a.weight) else {
            continue;
        };
        let line = format!("{}: {}", g.name, fenlo_words::apart(apart.reason, plan.units));
        match apart.weight {
            Weight::Never => never.push(line),
            _ => better_apart.push(line),
        }
    }
    let main = valve.mainline.as_ref();
    Ok(Detail {
        u,
        job: known.open.id,
        id: valve.id.clone(),
        badge: valve_badge(plan.valve_number(&valve.id)),
        name: valve.name.clone(),
        supplies: choices::supplies(plan, &valve.supply),
        models: choices::devices(&[Role::Valve], &valve.model, None),
        filters: choices::devices(&[Role::Filter], valve.filter.as_deref().unwrap_or(""), Some("none")),
        mains: choices::pipes(main.map(|m| &m.pipe), Some("none (valve at point of connection)")),
        main_length: main.map_or(String::new(), |m| m.length.field(u)),
        main_rise: main.map_or(String::new(), |m| m.rise.field(u)),
        boxes: boxes(plan, valve),
        locked: valve.locked,
        groups,
        others: choices::valves(plan, None).into_iter().filter(|c| c.value != valve.id).collect(),
        never,
        better_apart,
        workings: zone.map(|z| fenlo_words::zone_workings(z, u)).unwrap_or_default(),
        findings: checks(known, valve)?,
    }
    .render()?)
}

/// Valve boxes on the board that it may stand in.
fn boxes(plan: &Plan, valve: &Valve) -> Vec<Choice> {
    let all = plan.site.places(fenlo_core::site::PlaceKind::ValveBox);
    let choices: Vec<Choice> = all
        .map(|(t, _)| Choice {
            value: t.id.clone(),
            label: t.title().to_owned(),
            chosen: valve.valve_box.as_ref() == Some(&t.id),
        })
        .collect();
    if choices.is_empty() {
        return choices;
    }
    std::iter::once(Choice {
        value: String::new(),
        label: "first box at this point of connection".into(),
        chosen: valve.valve_box.is_none(),
    })
    .chain(choices)
    .collect()
}

#[derive(Template)]
#[template(source = r#"<p class="soft">Not checked: {{ fault }}.</p>"#, ext = "html")]
struct NotChecked {
    fault: String,
}

/// What is wrong with a valve, and what would mend it. Nothing is said well of one that has no figures.
pub fn checks(known: &Assessed, valve: &Valve) -> Result<String, AppError> {
    let plan = known.job();
    if let Some(Err(fault)) = known.assessment.zone(&valve.id).map(|z| &z.zone) {
        let fault = fenlo_words::zone_fault(fault, plan.units);
        return Ok(NotChecked { fault }.render()?);
    }
    let here = Here::picked(Screen::Valves, valve.id.clone()).word();
    let found = known.diagnoses(&Subject::Valve(valve.id.clone()));
    Ok(findings::render(known.open.id, plan, here, "No problems found on this valve.", &found)?)
}

/// A head by `group.index`; none where it is not on this valve or the valve can't be solved.
pub fn head_how(known: &Assessed, valve: &str, head: &str) -> Option<HeadHow> {
    let (group, index) = head.rsplit_once('.')?;
    let index: u32 = index.parse().ok()?;
    let zone = known.assessment.zone(valve)?.zone.as_ref().ok()?;
    let is_it = |h: &HeadResult| h.head.group == group && h.head.index == index;
    let at = zone.heads.iter().position(is_it)?;
    Some(HeadHow {
        title: format!("{}, head {}", known.job().group(group)?.name, index.saturating_add(1)),
        workings: fenlo_words::head_workings(zone, at, known.job()),
    })
}

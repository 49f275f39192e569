//! Valves: the rack, one lane a valve; heads moved from valve to valve; the split.

use super::details::base_of;
use super::{findings, render_body, render_page};
use crate::app::{App, compute};
use crate::assessed::Assessed;
use crate::choices::{self, Choice};
use crate::error::AppError;
use crate::fields::{Fields, Pairs, at_fields};
use crate::respond::{Fragments, refuse};
use crate::shell::{Here, Screen};
use askama::Template;
use axum::extract::{Form, Path, Query, State};
use axum::response::{Html, IntoResponse, Response};
use fenlo_core::assess::ZoneReport;
use fenlo_core::catalogue::Role;
use fenlo_core::findings::Severity;
use fenlo_core::job::Job;
use fenlo_core::plan::{Edit, HeadGroup, HeadRef, Mainline, Plan, Regulation, Valve};
use fenlo_core::units::UnitSystem;
use fenlo_core::usual;
use fenlo_core::zoning::{Scope, Weight, propose, reasons_apart};
use fenlo_drawing::{FlowBar, flow_bar, pressure_glyph, valve_badge};
use fenlo_words::Working;
use serde::Deserialize;

#[derive(Deserialize)]
pub struct Pick {
    valve: Option<String>,
}

#[derive(Template)]
#[template(path = "valves.html")]
struct Page {
    job: i64,
    total: String,
    count: usize,
    least: usize,
    why: Vec<String>,
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
    stop: usize,
    fix: usize,
    watch: usize,
}

#[derive(Template)]
#[template(path = "parts/valve_detail.html")]
struct Detail {
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
    apart: Vec<String>,
    workings: Vec<(&'static str, Working)>,
    findings: String,
}

/// How one head comes to its figures.
#[derive(Template)]
#[template(path = "parts/head_how.html")]
struct HeadHow {
    title: String,
    workings: Vec<(&'static str, Working)>,
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

const FIELDS: [&str; 9] = [
    "name",
    "place",
    "supply",
    "model",
    "filter",
    "main_pipe",
    "main_length",
    "main_rise",
    "locked",
];

pub fn body(known: &Assessed, pick: Option<&str>) -> Result<String, AppError> {
    let plan = known.job();
    let picked = pick.and_then(|id| plan.valve(id)).or_else(|| plan.valves.first());
    let a = &known.assessment;
    let heads: usize = plan.groups.iter().map(|g| g.count() as usize).sum();
    let loose = if a.unassigned > 0 {
        format!(", <b>{} on no valve</b>", a.unassigned)
    } else {
        String::new()
    };
    Ok(Page {
        job: known.open.id,
        total: format!(
            "<b>{}</b> valves for {heads} heads or rows; least for a clean split <b>{}</b>{loose}",
            plan.valves.len(),
            a.bound.valves
        ),
        count: plan.valves.len(),
        least: a.bound.valves,
        why: a
            .bound
            .classes
            .iter()
            .map(|c| fenlo_words::class_bound(c, plan.units))
            .collect(),
        lanes: lanes(known, picked.map(|v| v.id.as_str()))?,
        detail: picked.map(|v| detail(known, v)).transpose()?,
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
    let design = known.assessment.supply(&valve.supply).and_then(|s| s.design.flow);
    let count = |s| report.findings.iter().filter(|f| f.severity == s).count();
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
        stop: count(Severity::Stop),
        fix: count(Severity::Fix),
        watch: count(Severity::Watch),
    };
    match &report.zone {
        Err(fault) => lane.fault = Some(fenlo_words::zone_fault(fault, u)),
        Ok(z) => {
            let (low, high) = (z.lowest(), z.highest());
            lane.bar = flow_bar(
                FlowBar {
                    flow: z.flow,
                    design,
                    number,
                },
                u,
            );
            lane.flow = z.flow.show(u);
            lane.glyph = pressure_glyph(low.nozzle, high.nozzle, low.band, u);
            let range = (low.nozzle.number(u), high.nozzle.show(u));
            lane.range = if high.nozzle.show(u).starts_with(&format!("{} ", range.0)) {
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
            if g.row.is_some() {
                format!("{n} rows {}", label.to_lowercase())
            } else {
                format!("{n} {}", label.to_lowercase())
            }
        })
    });
    let all: Vec<String> = on.collect();
    if all.is_empty() {
        "no heads".into()
    } else {
        all.join(", ")
    }
}

pub fn regulator(valve: &Valve, u: UnitSystem) -> String {
    match valve.regulation {
        Regulation::None => "no regulator".into(),
        Regulation::Valve { set } => format!("module {}", set.show_round(u)),
        Regulation::Inline { set } => format!(
            "{}preset {}",
            if valve.filter.is_some() { "filter, " } else { "" },
            set.show_round(u)
        ),
        Regulation::Body { set } => format!("bodies {}", set.show_round(u)),
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
            nozzle: catalogue
                .nozzle(&g.nozzle)
                .map_or(String::new(), |n| fenlo_words::nozzle(n, u)),
            heads: g
                .heads()
                .filter(|h| h.2 == Some(&valve.id))
                .map(|(index, arc, _)| {
                    let result = zone.and_then(|z| {
                        z.heads
                            .iter()
                            .find(|h| h.head.group == g.id && h.head.index == index)
                    });
                    HeadChip {
                        value: format!("{}.{index}", g.id),
                        number: index + 1,
                        arc: if g.row.is_some() {
                            "row".into()
                        } else {
                            format!("{arc}°")
                        },
                        pressure: result.map_or(String::new(), |r| r.nozzle.show(u)),
                        flow: result.map_or(String::new(), |r| r.flow.show(u)),
                        class: match result {
                            Some(r) if r.nozzle < r.band.least => "low",
                            Some(r) if r.nozzle > r.band.most => "high",
                            _ => "",
                        },
                    }
                })
                .collect(),
        })
        .collect();
    // What may not come here, and why: one line for each other area.
    let apart = plan
        .groups
        .iter()
        .filter(|g| !on.iter().any(|o| o.id == g.id))
        .filter_map(|g| {
            let reasons = on
                .iter()
                .flat_map(|o| reasons_apart(plan, o, g))
                .max_by_key(|a| a.weight)?;
            Some(format!(
                "{}{}: {}",
                if reasons.weight == Weight::Never {
                    "Never "
                } else {
                    ""
                },
                g.name,
                fenlo_words::apart(reasons.reason)
            ))
        })
        .collect();
    let main = valve.mainline.as_ref();
    let found = known.assessment.zone_found(plan, valve);
    Ok(Detail {
        job: known.open.id,
        id: valve.id.clone(),
        badge: valve_badge(plan.valve_number(&valve.id)),
        name: valve.name.clone(),
        supplies: choices::supplies(plan, &valve.supply),
        models: choices::devices(&[Role::Valve], &valve.model, None),
        filters: choices::devices(
            &[Role::Filter],
            valve.filter.as_deref().unwrap_or(""),
            Some("none"),
        ),
        mains: choices::pipes(main.map(|m| &m.pipe), Some("none: valve at the connection")),
        main_length: main.map_or(String::new(), |m| m.length.field(u)),
        main_rise: main.map_or(String::new(), |m| m.rise.field(u)),
        boxes: boxes(plan, valve),
        locked: valve.locked,
        groups,
        others: choices::valves(plan, None)
            .into_iter()
            .filter(|c| c.value != valve.id)
            .collect(),
        apart,
        workings: zone.map(|z| fenlo_words::zone_workings(z, u)).unwrap_or_default(),
        findings: findings::render(
            known.open.id,
            plan,
            Here::at(Screen::Valves, Some(valve.id.clone())).word(),
            "This valve is in order.",
            &found,
        )?,
    }
    .render()?)
}

pub async fn page(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(pick): Query<Pick>,
) -> Result<Response, AppError> {
    render_page(app.job(job).await?, Here::at(Screen::Valves, pick.valve)).await
}

pub async fn split(
    State(app): State<App>,
    Path(job): Path<i64>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let base = base_of(&Fields::new(pairs, UnitSystem::Us), &known);
    let proposal =
        compute(move || propose(known.job(), &known.assessment.design_flows(), Scope::All)).await?;
    let Some(edit) = proposal.edit else {
        return Err(AppError::Bad(
            "There are no heads to split: list them on Heads, or unlock a valve".into(),
        ));
    };
    render_body(app.edit(job, base, edit).await?, Here::at(Screen::Valves, None)).await
}

pub async fn head_how(
    State(app): State<App>,
    Path((job, valve, head)): Path<(i64, String, String)>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let plan = known.job();
    let found = head.rsplit_once('.').and_then(|(group, index)| {
        let index: u32 = index.parse().ok()?;
        let zone = known.assessment.zone(&valve)?.zone.as_ref().ok()?;
        let at = zone
            .heads
            .iter()
            .position(|h| h.head.group == group && h.head.index == index)?;
        Some((zone, at, plan.group(group)?, index))
    });
    let (zone, at, group, index) = found.ok_or(AppError::NotFound)?;
    let title = format!("{}, head {}", group.name, index.saturating_add(1));
    Ok(Html(
        HeadHow {
            title,
            workings: fenlo_words::head_workings(zone, at, plan),
        }
        .render()?,
    )
    .into_response())
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
        label: "the first of its connection".into(),
        chosen: valve.valve_box.is_none(),
    })
    .chain(choices)
    .collect()
}

pub async fn add(
    State(app): State<App>,
    Path(job): Path<i64>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let base = base_of(&Fields::new(pairs, UnitSystem::Us), &known);
    let valve = usual::valve(known.job(), None)
        .ok_or_else(|| AppError::Bad("Add a point of connection on Water first".into()))?;
    let here = Here::at(Screen::Valves, Some(valve.id.clone()));
    render_body(app.edit(job, base, Edit::put(valve)).await?, here).await
}

pub async fn save(
    State(app): State<App>,
    Path((job, id)): Path<(i64, String)>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let was = known
        .job()
        .valve(&id)
        .ok_or_else(|| AppError::Conflict("this valve was removed".into()))?
        .clone();
    let mut f = Fields::new(pairs, known.job().units);
    let mainline = if f.get("main_pipe").is_empty() {
        None
    } else {
        f.parsed("main_pipe").map(|pipe| Mainline {
            pipe,
            length: f.length("main_length"),
            rise: f.length_or_zero("main_rise"),
        })
    };
    let valve = Valve {
        name: f.text("name"),
        supply: Some(f.text("supply"))
            .filter(|s| !s.is_empty())
            .unwrap_or_else(|| was.supply.clone()),
        model: f.text("model"),
        filter: Some(f.text("filter")).filter(|s| !s.is_empty()),
        mainline,
        valve_box: if f.has("place") {
            Some(f.text("place")).filter(|p| !p.is_empty())
        } else {
            was.valve_box
        },
        locked: f.ticked("locked"),
        ..was
    };
    if !f.errors.is_empty() {
        return Ok(refuse("valve", &FIELDS, &f.errors));
    }
    match app.edit(job, base_of(&f, &known), Edit::put(valve)).await {
        Ok(known) => {
            let here = Here::at(Screen::Valves, Some(id.clone()));
            let mut out = Fragments::of(&known, &here)?;
            out.put("v-rack", &lanes(&known, Some(&id))?.concat());
            let found = known
                .job()
                .valve(&id)
                .map_or_else(Vec::new, |v| known.assessment.zone_found(known.job(), v));
            out.put(
                "v-findings",
                &findings::render(job, known.job(), here.word(), "This valve is in order.", &found)?,
            );
            out.clear("valve", &FIELDS);
            Ok(out.done())
        }
        Err(AppError::Faults(faults)) => Ok(refuse("valve", &FIELDS, &at_fields(&faults, &FIELDS))),
        Err(error) => Err(error),
    }
}

pub async fn move_heads(
    State(app): State<App>,
    Path((job, id)): Path<(i64, String)>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let f = Fields::new(pairs, known.job().units);
    let heads: Vec<HeadRef> = f
        .all("head")
        .filter_map(|h| h.rsplit_once('.'))
        .filter_map(|(group, index)| {
            Some(HeadRef {
                group: group.to_owned(),
                index: index.parse().ok()?,
            })
        })
        .collect();
    if heads.is_empty() {
        return Ok(refuse(
            "move",
            &[],
            &[("form".into(), "tick the heads to move first".into())],
        ));
    }
    let to = f.text("to");
    let (to, edit) = if to == "new" {
        let valve = usual::valve(known.job(), known.job().valve(&id)).ok_or(AppError::NotFound)?;
        let new = valve.id.clone();
        let at = Some(known.job().valve_number(&id));
        (
            new.clone(),
            Edit::batch(vec![Edit::put_at(valve, at), Edit::assign(heads, Some(new))]),
        )
    } else {
        (to.clone(), Edit::assign(heads, Some(to)))
    };
    render_body(
        app.edit(job, base_of(&f, &known), edit).await?,
        Here::at(Screen::Valves, Some(to)),
    )
    .await
}

pub async fn remove(
    State(app): State<App>,
    Path((job, id)): Path<(i64, String)>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let base = base_of(&Fields::new(pairs, UnitSystem::Us), &known);
    render_body(
        app.edit(job, base, Edit::remove::<Valve>(id)).await?,
        Here::at(Screen::Valves, None),
    )
    .await
}

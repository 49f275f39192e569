//! Heads laid out by the machine: one kind on one area from the board, and all kinds side by side.

use super::details::base_of;
use super::ground::sheet::{LAID_OUT, saved};
use super::ground::water::{du_verdict, percent};
use super::render_page;
use crate::app::{App, compute};
use crate::assessed::Assessed;
use crate::choices::word;
use crate::error::AppError;
use crate::fields::{Fields, Pairs};
use crate::respond::{Fragments, refuse};
use crate::runs::Run;
use crate::shell::{Here, Screen};
use askama::Template;
use axum::extract::{Form, Path, Query, State};
use axum::response::{Html, IntoResponse, Response};
use fenlo_core::catalogue::Kind;
use fenlo_core::job::Job;
use fenlo_core::layout::{Alternative, Progress, Proposal, advise, alternatives, lay_out, measure, propose};
use fenlo_core::plan::Plan;
use fenlo_core::units::{Flow, Surface, UnitSystem, Volume};
use fenlo_drawing::layout_picture;
use fenlo_words::Working;
use serde::Deserialize;
use std::sync::Arc;

/// Lays one kind out on one area: the board's button.
pub async fn lay(
    State(app): State<App>,
    Path(job): Path<i64>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let mut f = Fields::new(pairs, known.job().units);
    let (area, kind) = (f.text("area"), kind_of(&mut f));
    let say = |message: String| Ok(refuse("lay", &["kind"], &[("form".to_owned(), message)]));
    if !f.errors.is_empty() {
        return Ok(refuse("lay", &["kind"], &f.errors));
    }
    let units = known.job().units;
    let before = Arc::clone(&known);
    let edit = compute(move || {
        propose(before.job(), &area, kind, &Progress::default()).map(|p| lay_out(before.job(), &p))
    })
    .await?;
    let edit = match edit {
        Ok(edit) => edit,
        Err(fault) => {
            return say(super::ground::gestures::sentence(&fenlo_words::layout_fault(
                &fault, units,
            )));
        }
    };
    match app.edit(job, base_of(&f, &known), edit).await {
        Ok(known) => saved(&known, "lay", &["kind"]),
        Err(AppError::Faults(faults)) => say(faults.first().map_or_else(String::new, |x| x.message.clone())),
        Err(error) => Err(error),
    }
}

fn kind_of(f: &mut Fields) -> Kind {
    let text = f.text("kind");
    LAID_OUT.into_iter().find(|k| word(k) == text).unwrap_or_else(|| {
        f.fault("kind", "pick a kind of the list");
        Kind::Spray
    })
}

#[derive(Template)]
#[template(path = "layout.html")]
struct Page {
    job: i64,
    areas: Vec<(String, String, bool)>,
    state: String,
}

#[derive(Template)]
#[template(path = "parts/layout_state.html")]
struct StatePart {
    job: i64,
    area: String,
    running: bool,
    done: usize,
    of: usize,
    stopped: bool,
    stale: bool,
    blocks: Vec<Block>,
    totals: Vec<Total>,
}

/// One area with its ways.
struct Block {
    id: String,
    name: String,
    says: String,
    cards: Vec<Card>,
}

struct Card {
    kind: String,
    label: String,
    suits: bool,
    fault: String,
    picture: String,
    heads: String,
    flow: String,
    valves: String,
    du: String,
    du_verdict: &'static str,
    off: String,
    dry: String,
    dry_bad: bool,
    cost: Option<String>,
    minutes: String,
    minutes_how: Option<Working>,
    year: String,
    pressure: String,
    short: bool,
    how: String,
    how_working: Option<Working>,
    unreached: Vec<String>,
    drip: bool,
}

struct Total {
    label: String,
    kind: String,
    heads: usize,
    flow: String,
    year: String,
    areas: usize,
    of: usize,
}

#[derive(Deserialize)]
pub struct Pick {
    area: Option<String>,
}

pub fn body(known: &Assessed, pick: Option<&str>) -> Result<String, AppError> {
    page_body(known, pick.unwrap_or(""))
}

fn page_body(known: &Assessed, area: &str) -> Result<String, AppError> {
    let plan = known.job();
    let areas: Vec<(String, String, bool)> = plan
        .site
        .areas()
        .map(|(t, a)| {
            (
                t.id.clone(),
                format!(
                    "{} ({})",
                    t.title(),
                    Surface::from_m2(a.shape.area_m2()).show(plan.units)
                ),
                t.id == area,
            )
        })
        .collect();
    Ok(Page {
        job: known.open.id,
        areas,
        state: state(known, area, None)?,
    }
    .render()?)
}

pub async fn page(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(pick): Query<Pick>,
) -> Result<Response, AppError> {
    render_page(
        app.job(job).await?,
        Here::at(Screen::Layout, pick.area.filter(|a| !a.is_empty())),
    )
    .await
}

/// Begins comparing, for one area or for all; what ran before for this job is stopped.
pub async fn run(
    State(app): State<App>,
    Path(job): Path<i64>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let f = Fields::new(pairs, known.job().units);
    let picked = f.text("area");
    let areas: Vec<String> = known
        .job()
        .site
        .areas()
        .map(|(t, _)| t.id.clone())
        .filter(|id| picked.is_empty() || *id == picked)
        .collect();
    let run = Arc::new(Run::new(areas, Arc::clone(&known)));
    run.progress.expect(run.areas.len() * 6);
    if let Some(old) = app.runs.get(&job) {
        old.progress.stop();
    }
    app.runs.insert(job, Arc::clone(&run));
    let (work, of) = (Arc::clone(&run), Arc::clone(&known));
    tokio::task::spawn_blocking(move || work.finish(compare(&of, &work)));
    fragment(&known, &picked, Some(&run)).await
}

/// All areas, two at a time: one for each core of a small server.
fn compare(known: &Assessed, run: &Run) -> Vec<Alternative> {
    let one = |area: &String| {
        if run.progress.stopped() {
            Vec::new()
        } else {
            alternatives(known.job(), known.assessment.available(), area, &run.progress)
        }
    };
    let (even, odd): (Vec<_>, Vec<_>) = run.areas.iter().enumerate().partition(|(i, _)| i % 2 == 0);
    let work = |part: Vec<(usize, &String)>| part.into_iter().map(|(i, a)| (i, one(a))).collect::<Vec<_>>();
    let mut found = std::thread::scope(|s| {
        let other = s.spawn(|| work(odd));
        let mut mine = work(even);
        mine.extend(other.join().unwrap_or_default());
        mine
    });
    found.sort_by_key(|(i, _)| *i);
    found.into_iter().flat_map(|(_, a)| a).collect()
}

pub async fn progress(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(pick): Query<Pick>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let run = app.runs.get(&job);
    fragment(&known, pick.area.as_deref().unwrap_or(""), run.as_deref()).await
}

pub async fn stop(
    State(app): State<App>,
    Path(job): Path<i64>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let f = Fields::new(pairs, known.job().units);
    let run = app.runs.get(&job);
    if let Some(run) = &run {
        run.progress.stop();
    }
    fragment(&known, &f.text("area"), run.as_deref()).await
}

async fn fragment(known: &Arc<Assessed>, area: &str, run: Option<&Run>) -> Result<Response, AppError> {
    Ok(Html(state(known, area, run)?).into_response())
}

/// Takes a way for one area, or one kind for all that have it.
pub async fn take(
    State(app): State<App>,
    Path(job): Path<i64>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let mut f = Fields::new(pairs, known.job().units);
    let (area, kind) = (f.text("area"), kind_of(&mut f));
    let Some((run, found)) = app.runs.get(&job).and_then(|r| r.found().map(|f| (r, f))) else {
        return Err(AppError::Bad(
            "what was compared is not kept any more: compare again".into(),
        ));
    };
    let ways: Vec<&Proposal> = found
        .iter()
        .filter(|a| a.kind == kind && (area.is_empty() || a.area == area))
        .filter_map(|a| a.heads.as_ref().ok())
        .collect();
    if ways.is_empty() || !f.errors.is_empty() {
        return Err(AppError::Bad(
            "no heads of this kind were found for that ground: compare again".into(),
        ));
    }
    if run.is_stale(&known) {
        return Err(AppError::Conflict(
            "the ground was changed since: compare again".into(),
        ));
    }
    // One after the other, each on the plan as the one before leaves it: names stay apart.
    let mut plan = known.job().clone();
    let mut edits = Vec::new();
    for way in ways {
        let edit = lay_out(&plan, way);
        plan = plan.apply(&edit).map_err(|e| AppError::Bad(e.to_string()))?.0;
        edits.push(edit);
    }
    let known = app
        .edit(job, known.open.seq, fenlo_core::plan::Edit::batch(edits))
        .await?;
    let mut out = Fragments::of(&known, &Here::at(Screen::Layout, None))?;
    out.put(
        "layout-said",
        &format!(
            "<p class=\"pill ok\">✓ Laid out. <a href=\"/jobs/{job}/ground\">See \
        it on the ground</a>; Undo takes it back.</p>"
        ),
    );
    Ok(out.done())
}

fn state(known: &Assessed, area: &str, run: Option<&Run>) -> Result<String, AppError> {
    let plan = known.job();
    let found = run.and_then(Run::found);
    let (done, of) = run.map_or((0, 0), |r| r.progress.now());
    let blocks = found.as_deref().map_or_else(Vec::new, |all| blocks(plan, all));
    let part = StatePart {
        job: known.open.id,
        area: area.to_owned(),
        running: run.is_some() && found.is_none(),
        done: done.min(of),
        of,
        stopped: run.is_some_and(|r| r.progress.stopped()),
        stale: run.is_some_and(|r| r.is_stale(known)),
        totals: found.as_deref().map_or_else(Vec::new, |all| totals(plan, all)),
        blocks,
    };
    Ok(part.render()?)
}

fn blocks(plan: &Job, all: &[Alternative]) -> Vec<Block> {
    let mut out: Vec<Block> = Vec::new();
    for way in all {
        if out.last().is_none_or(|b| b.id != way.area) {
            let Some(thing) = plan.site.object(&way.area) else {
                continue;
            };
            let advice = advise(plan, &way.area);
            let says = advice.map_or(String::new(), |a| {
                format!(
                    "Suits here: {} ({}).",
                    fenlo_words::kind(a.kind).to_lowercase(),
                    fenlo_words::advice(&a, plan.units)
                )
            });
            out.push(Block {
                id: way.area.clone(),
                name: thing.title().to_owned(),
                says,
                cards: Vec::new(),
            });
        }
        if let Some(block) = out.last_mut() {
            block.cards.push(card(plan, way));
        }
    }
    out
}

fn gallons(volume: Volume, u: UnitSystem) -> String {
    match u {
        UnitSystem::Us => {
            let hundreds = (volume.litres() / fenlo_core::units::LPM_PER_GPM / 100.0).round() as u64;
            if hundreds < 10 {
                format!("{} gal", hundreds * 100)
            } else {
                format!("{},{:03} gal", hundreds / 10, hundreds % 10 * 100)
            }
        }
        UnitSystem::Metric => format!("{:.1} m³", volume.litres() / 1000.0),
    }
}

fn card(plan: &Job, way: &Alternative) -> Card {
    let u = plan.units;
    let suits = advise(plan, &way.area).is_some_and(|a| a.kind == way.kind);
    let dash = || "–".to_owned();
    let proposal = way.heads.as_ref().ok();
    let score = proposal.map(|p| p.score);
    let wanted = way.pressure.0.show_round(u);
    let short = way.pressure.1.is_some_and(|left| left < way.pressure.0);
    let coverage = proposal
        .and_then(|p| measure(plan, &way.area, &p.heads))
        .map(|m| m.1);
    Card {
        kind: word(&way.kind),
        label: fenlo_words::kind(way.kind).to_owned(),
        suits,
        fault: match &way.heads {
            Err(fault) if way.drip.is_none() => {
                super::ground::gestures::sentence(&fenlo_words::layout_fault(fault, u))
            }
            _ => String::new(),
        },
        picture: proposal
            .zip(coverage.as_ref())
            .map_or(String::new(), |(p, cover)| {
                layout_picture(plan, &way.area, p, cover)
            }),
        heads: match (score, way.drip) {
            (Some(s), _) => s.heads.to_string(),
            (None, Some(d)) => d.tubing.show(u),
            _ => dash(),
        },
        flow: way.flow.map_or_else(dash, |f| f.show(u)),
        valves: way.valves.map_or_else(dash, |v| v.to_string()),
        du: score.map_or_else(dash, |s| format!("{:.2}", s.du)),
        du_verdict: score.map_or("", |s| du_verdict(s.du)),
        off: score.map_or_else(dash, |s| percent(s.overspray)),
        dry: score.map_or_else(dash, |s| percent(s.on_dry)),
        dry_bad: score.is_some_and(|s| s.on_dry > 0.03),
        cost: way.cost.map(|c| c.to_string()),
        minutes: way
            .minutes
            .as_ref()
            .map_or_else(dash, |m| format!("{:.0} min", m.minutes.minutes())),
        minutes_how: way
            .minutes
            .as_ref()
            .map(|m| fenlo_words::alternative_minutes(m, u)),
        year: way.year.map_or_else(dash, |y| gallons(y, u)),
        pressure: way.pressure.1.map_or_else(
            || format!("{wanted} wanted"),
            |left| format!("{wanted} of {}", left.show_round(u)),
        ),
        short,
        how: proposal.map_or(String::new(), |p| fenlo_words::how_laid_out(p, u)),
        how_working: way
            .drip
            .zip(plan.site.area(&way.area))
            .map(|(d, a)| fenlo_words::drip_estimate(&d, Surface::from_m2(a.shape.area_m2()), u)),
        unreached: proposal.map_or_else(Vec::new, |p| {
            p.unreached
                .iter()
                .take(3)
                .map(|x| fenlo_words::unreached(x, u))
                .collect()
        }),
        drip: way.drip.is_some(),
    }
}

/// One kind for the whole site: what it comes to where it can be laid.
fn totals(plan: &Plan, all: &[Alternative]) -> Vec<Total> {
    let mut areas: Vec<&str> = all.iter().map(|a| a.area.as_str()).collect();
    areas.dedup();
    if areas.len() < 2 {
        return Vec::new();
    }
    let kinds = LAID_OUT
        .into_iter()
        .filter(|k| all.iter().any(|a| a.kind == *k && a.heads.is_ok()));
    kinds
        .map(|kind| {
            let ways: Vec<&Alternative> = all.iter().filter(|a| a.kind == kind && a.heads.is_ok()).collect();
            Total {
                label: fenlo_words::kind(kind).to_owned(),
                kind: word(&kind),
                heads: ways
                    .iter()
                    .filter_map(|a| a.heads.as_ref().ok())
                    .map(|p| p.heads.len())
                    .sum(),
                flow: ways.iter().filter_map(|a| a.flow).sum::<Flow>().show(plan.units),
                year: gallons(ways.iter().filter_map(|a| a.year).sum(), plan.units),
                areas: ways.len(),
                of: areas.len(),
            }
        })
        .collect()
}

//! The water on the ground: the map and its figures, as it is and as it would be while a head is
//! dragged.

use crate::app::{App, compute};
use crate::error::AppError;
use askama::Template;
use axum::Json;
use axum::extract::rejection::JsonRejection;
use axum::extract::{Path, Query, State};
use axum::response::{Html, IntoResponse, Response};
use fenlo_core::assess::{Assessment, area_report, assess_after};
use fenlo_core::board::Gesture;
use fenlo_core::catalogue::Kind;
use fenlo_core::coverage::{
    Coverage, Drift, Expected, FAULT_BELOW, REPETITIONS, Source, Throw, Verdict, WHILE_MOVING, coverage,
    expected, sources, verdict,
};
use fenlo_core::job::Job;
use fenlo_core::plan::Plan;
use fenlo_core::remedies;
use fenlo_core::site::SiteObject;
use fenlo_core::units::{Flow, Rate, Speed, UnitSystem};
use fenlo_drawing::{coverage_map, scale};
use fenlo_words::{Working, counted};
use serde::{Deserialize, Serialize};

/// Which area, and the wind.
#[derive(Deserialize, Clone)]
pub struct Asked {
    /// Id of an area; none: all that have heads drawn.
    #[serde(default)]
    area: Option<String>,
    /// Miles an hour.
    #[serde(default)]
    wind: f64,
    /// Where it comes from: `n`, `ne`, ... of the compass.
    #[serde(default)]
    from: String,
}

/// A gesture that is not done yet.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Tried {
    asked: Asked,
    gesture: Gesture,
}

#[derive(Serialize)]
struct CoverageView {
    map: String,
    panel: String,
}

#[derive(Template)]
#[template(path = "parts/water.html")]
struct Panel {
    job: i64,
    title: String,
    area: String,
    figures: Vec<Figure>,
    scale: Vec<(&'static str, String)>,
    unit: &'static str,
    rows: Vec<Row>,
    spills: Vec<(String, String, bool)>,
    winds: Vec<(u32, String, bool)>,
    compass: Vec<(&'static str, &'static str, bool)>,
    says: String,
    /// Some heads are on no valve.
    loose: bool,
    tried: bool,
}

struct Figure {
    key: &'static str,
    label: &'static str,
    value: String,
    verdict: &'static str,
    working: Working,
}

struct Row {
    id: String,
    name: String,
    du: String,
    expected: String,
    overspray: String,
    verdict: &'static str,
}

const COMPASS: [(&str, &str, f64); 8] = [
    ("n", "north", 0.0),
    ("ne", "north-east", 45.0),
    ("e", "east", 90.0),
    ("se", "south-east", 135.0),
    ("s", "south", 180.0),
    ("sw", "south-west", 225.0),
    ("w", "west", 270.0),
    ("nw", "north-west", 315.0),
];
const WINDS: [u32; 4] = [0, 4, 8, 12];
/// Areas that are mapped at once.
const MOST_AREAS: usize = 300;
/// Areas up to which each is audited too.
const MOST_AUDITED: usize = 60;

pub async fn show(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(asked): Query<Asked>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    compute(move || Ok(Json(water(job, known.job(), &known.assessment, &asked, false)?).into_response()))
        .await?
}

/// What is wrong with the heads of an area and what would mend it, each remedy computed.
pub async fn findings(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(asked): Query<Asked>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    compute(move || {
        let plan = known.job();
        let area = asked.area.unwrap_or_default();
        let report = area_report(plan, &known.assessment.solved_heads(), &area);
        let found = report.as_ref().map_or_else(Vec::new, |r| remedies::of_area(plan, &known.assessment, r));
        let well = if report.is_none() {
            "No heads to check yet."
        } else {
            "Head-to-head coverage, no overspray, no dry spots."
        };
        Ok(Html(crate::screens::findings::render(job, plan, "ground".into(), well, &found)?).into_response())
    })
    .await?
}

/// What a gesture would do to the water, before it is done. Nothing is saved.
pub async fn try_it(
    State(app): State<App>,
    Path(job): Path<i64>,
    sent: Result<Json<Tried>, JsonRejection>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let Ok(Json(sent)) = sent else {
        return Err(AppError::Bad("the drawing action could not be read".into()));
    };
    compute(move || {
        let now = known.job();
        let tried = sent.gesture.edit(now).ok().and_then(|edit| now.apply(&edit).ok());
        let (job_then, tried) = match tried {
            Some((next, _)) => (next, true),
            None => (now.clone(), false),
        };
        let assessment = assess_after(&job_then, Some(&known.assessment));
        Ok(Json(water(job, &job_then, &assessment, &sent.asked, tried)?).into_response())
    })
    .await?
}

/// Where wind blows to on the sheet: degrees counter-clockwise from its right.
fn drift(plan: &Plan, asked: &Asked) -> Option<Drift> {
    let from = COMPASS.iter().find(|c| c.0 == asked.from).map_or(225.0, |c| c.2);
    let speed = Speed::from_fps(asked.wind.clamp(0.0, 30.0) * 5280.0 / 3600.0);
    // North lies `north` degrees clockwise from the top of the sheet.
    Drift::new(speed, 90.0 - (from + 180.0 + plan.site.north))
}

/// The water of the drawn heads of an area.
pub fn on_area(
    plan: &Job,
    assessment: &Assessment,
    area: &str,
    drift: Option<Drift>,
) -> Option<(Coverage, usize)> {
    let sources = sources(plan, &assessment.solved_heads(), area);
    let throws: Vec<Throw> = sources.iter().map(Source::throw).collect();
    let solved = sources.iter().filter(|s| s.solved.is_some()).count();
    Some((coverage(plan, area, &throws, drift)?, solved))
}

fn water(
    job: i64,
    plan: &Job,
    assessment: &Assessment,
    asked: &Asked,
    tried: bool,
) -> Result<CoverageView, AppError> {
    let u = plan.units;
    let drift = drift(plan, asked);
    let has_heads =
        |t: &&SiteObject| plan.groups.iter().any(|g| g.area.as_deref() == Some(&t.id) && g.is_drawn());
    let wanted: Vec<&SiteObject> = match asked.area.as_deref().filter(|a| !a.is_empty()) {
        Some(id) => plan.site.object(id).filter(|t| plan.site.area(&t.id).is_some()).into_iter().collect(),
        None => plan.site.areas().map(|(t, _)| t).filter(has_heads).take(MOST_AREAS).collect(),
    };
    let found: Vec<(&SiteObject, Coverage, usize)> = wanted
        .iter()
        .filter_map(|t| on_area(plan, assessment, &t.id, drift).map(|(c, solved)| (*t, c, solved)))
        .collect();
    let map: String = found.iter().map(|(_, c, _)| coverage_map(c, u)).collect();
    let winds = WINDS.iter().map(|w| (*w, wind_word(*w, u), f64::from(*w) == asked.wind)).collect();
    let compass = COMPASS
        .iter()
        .map(|c| (c.0, c.1, c.0 == asked.from || (asked.from.is_empty() && c.0 == "sw")))
        .collect();
    let mut panel = Panel {
        job,
        title: "Coverage, all areas".into(),
        area: String::new(),
        figures: Vec::new(),
        scale: Vec::new(),
        unit: rate_unit(u),
        rows: Vec::new(),
        spills: Vec::new(),
        winds,
        compass,
        says: String::new(),
        loose: false,
        tried,
    };
    match (found.as_slice(), asked.area.as_deref().filter(|a| !a.is_empty())) {
        ([(thing, c, solved)], Some(_)) => {
            panel.title = format!("Coverage, {}", thing.title());
            panel.area.clone_from(&thing.id);
            panel.scale = scale(c, u);
            // While a hand moves a head a few repetitions must do.
            let repetitions = if tried { WHILE_MOVING } else { REPETITIONS };
            let audit = audit(plan, assessment, &thing.id, c, repetitions);
            panel.figures = figures(c, audit.as_ref(), u);
            panel.spills =
                c.spills.iter().take(5).map(|s| (s.name.clone(), share(s.flow, c.flow), s.dry)).collect();
            panel.loose = *solved < c.heads;
            panel.says = match (c.heads, *solved) {
                (0, _) => "No heads drawn here. Lay them out or place them by hand.".into(),
                (all, 0) => format!("{} at rated pressure (not on a valve).", counted(all, "head")),
                (all, some) if all == some => {
                    format!("{} at actual pressure and flow.", counted(all, "head"))
                }
                (all, some) => format!(
                    "{some} of {all} heads at actual pressure; the rest at rated pressure (not on a valve)."
                ),
            };
        }
        _ => {
            panel.says = if found.is_empty() {
                "No area has heads drawn yet.".into()
            } else {
                "Select an area to see its map, driest spot and overspray.".into()
            };
            // On sites with very many areas the ideal figures must do.
            let audited = found.len() <= MOST_AUDITED;
            let row = |(t, c, _): &(&SiteObject, Coverage, usize)| {
                let audit = audited.then(|| audit(plan, assessment, &t.id, c, REPETITIONS)).flatten();
                let ideal = c.uniformity.map_or(0.0, |k| k.du);
                Row {
                    id: t.id.clone(),
                    name: t.title().to_owned(),
                    du: c.uniformity.map_or("–".into(), |k| format!("{:.2}", k.du)),
                    expected: audit.as_ref().map_or("–".into(), |a| format!("{:.2}", a.expected.du)),
                    overspray: percent(c.overspray()),
                    verdict: match &audit {
                        Some(audit) => pill(audit.verdict),
                        None if ideal >= FAULT_BELOW => "ok",
                        None => "stop",
                    },
                }
            };
            panel.rows = found.iter().map(row).collect();
        }
    }
    Ok(CoverageView { map, panel: panel.render()? })
}

fn rate_unit(u: UnitSystem) -> &'static str {
    match u {
        UnitSystem::Us => "in/h",
        UnitSystem::Metric | UnitSystem::MetricBar => "mm/h",
    }
}

fn wind_word(mph: u32, u: UnitSystem) -> String {
    match (mph, u.is_metric()) {
        (0, _) => "no wind".into(),
        (_, false) => format!("{mph} mph"),
        (_, true) => format!("{:.0} km/h", f64::from(mph) * 1.609_344),
    }
}

pub fn percent(share: f64) -> String {
    if share < 0.0005 {
        "0%".to_owned()
    } else if share < 0.0995 {
        format!("{:.1}%", share * 100.0)
    } else {
        format!("{:.0}%", share * 100.0)
    }
}

fn share(part: Flow, all: Flow) -> String {
    percent(if all.lpm() > 0.0 { part / all } else { 0.0 })
}

/// The pill of a verdict.
pub fn pill(verdict: Verdict) -> &'static str {
    match verdict {
        Verdict::Good => "ok",
        Verdict::Below => "watch",
        Verdict::Poor => "stop",
    }
}

/// Evenness as an audit would find it, and what is said of it.
struct Audit {
    expected: Expected,
    kind: Kind,
    verdict: Verdict,
}

fn audit(plan: &Job, assessment: &Assessment, area: &str, c: &Coverage, repetitions: usize) -> Option<Audit> {
    let ideal = c.uniformity?.du;
    let sources = sources(plan, &assessment.solved_heads(), area);
    let kind = sources.first()?.class.kind;
    let expected = expected(plan, area, &sources, repetitions)?;
    let verdict = verdict(ideal, &expected, kind);
    Some(Audit { expected, kind, verdict })
}

fn figures(c: &Coverage, audit: Option<&Audit>, u: UnitSystem) -> Vec<Figure> {
    let Some(k) = c.uniformity else { return Vec::new() };
    let rate = |mmph: f64| Rate::from_mmph(mmph).show(u);
    let cells = c.inside().iter().filter(|i| **i).count();
    let cans = format!("{cells} cells of {}", fenlo_core::units::Length::from_m(c.grid.cell).show_tape(u));
    let audit_source =
        "low-quarter DU as in irrigation audits (Merriam and Keller 1978), simulated catch-can grid";
    let driest = c.driest.map_or(0.0, |d| d.rate.mmph());
    let expected = audit.map(|a| Figure {
        key: "du-expected",
        label: "DU, expected",
        value: format!("{:.2}", a.expected.du),
        verdict: pill(a.verdict),
        working: fenlo_words::expected_working(k.du, &a.expected, a.kind),
    });
    let others = vec![
        Figure {
            key: "du",
            label: "DU, ideal",
            value: format!("{:.2}", k.du),
            verdict: if k.du < FAULT_BELOW { "stop" } else { "" },
            working: Working::new("DU = mean of the driest quarter ÷ mean", audit_source)
                .with("cans", cans.clone())
                .with("driest quarter", rate(k.low))
                .with("mean", rate(k.mean))
                .with("heads", "perfect heads, wind as chosen below")
                .gives(format!("{:.2}", k.du)),
        },
        Figure {
            key: "cu",
            label: "CU",
            value: format!("{:.2}", k.cu),
            verdict: "",
            working: Working::new("CU = 1 − mean deviation ÷ mean", "Christiansen 1942")
                .with("cans", cans.clone())
                .with("mean", rate(k.mean))
                .gives(format!("{:.2}", k.cu)),
        },
        Figure {
            key: "sc",
            label: "SC",
            value: if k.sc.is_finite() { format!("{:.2}", k.sc) } else { "∞".into() },
            verdict: if k.sc <= 1.5 { "" } else { "watch" },
            working: Working::new(
                "SC = mean ÷ mean of the driest 5% window",
                "scheduling coefficient: how much longer to run for the driest spot",
            )
            .with("mean", rate(k.mean))
            .with("driest 5% window", rate(driest))
            .gives(format!("{:.2}", k.sc)),
        },
        Figure {
            key: "rate",
            label: "Mean precipitation rate",
            value: rate(k.mean),
            verdict: "",
            working: Working::new("rate = water that lands on the area ÷ area", "volume over surface")
                .with("lands", c.landed.show(u))
                .with("area", fenlo_core::units::Surface::from_m2(c.area_m2()).show(u))
                .gives(rate(k.mean)),
        },
        Figure {
            key: "dry",
            label: "On no-spray areas",
            value: percent(c.on_dry()),
            verdict: if c.on_dry() <= 0.03 { "ok" } else { "stop" },
            working: Working::new(
                "water on no-spray areas ÷ flow of the heads",
                "grid cells under each object; splash and runoff not included",
            )
            .with("flow", c.flow.show(u))
            .gives(percent(c.on_dry())),
        },
        Figure {
            key: "over",
            label: "Outside the area",
            value: percent(c.overspray()),
            verdict: if c.overspray() <= 0.15 { "" } else { "watch" },
            working: Working::new("(flow − water on the area) ÷ flow", "water balance")
                .with("flow", c.flow.show(u))
                .with("on the area", c.landed.show(u))
                .gives(percent(c.overspray())),
        },
        Figure {
            key: "bare",
            label: "Dry area",
            value: percent(c.unreached),
            verdict: if c.unreached > 0.005 { "stop" } else { "" },
            working: Working::new(
                "cells below 10% of the mean ÷ all cells",
                "head-to-head spacing leaves none",
            )
            .with("cans", cans)
            .gives(percent(c.unreached)),
        },
    ];
    expected.into_iter().chain(others).collect()
}

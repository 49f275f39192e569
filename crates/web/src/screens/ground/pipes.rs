//! Pipe: routes and sizes proposed, legs and joints changed, valves run together.

use super::sheet::ids;
use crate::app::{App, compute};
use crate::assessed::Assessed;
use crate::beside::{self, Beside, Outcome, Task};
use crate::error::{AppError, escape};
use crate::fields::Fields;
use crate::place::{Here, Screen};
use crate::respond::Fragments;
use crate::submit::{FormAt, Sent, submit};
use askama::Template;
use axum::extract::{Path, Query, State};
use axum::http::HeaderValue;
use axum::response::{Html, IntoResponse, Response};
use fenlo_core::earthwork::Ground;
use fenlo_core::job::Job;
use fenlo_core::piping::{Scope, Shape, branch_against_chain, routes_watched, sizes, sizes_watched};
use fenlo_core::plan::{Edit, Joint, PipeLeg};
use fenlo_core::progress::Progress;
use fenlo_core::units::UnitSystem;
use fenlo_core::zone::{HeadState, run_together};
use fenlo_words as words;
use serde::Deserialize;

const FIELDS: [&str; 3] = ["pipe", "depth", "kind"];

/// One change of pipe from the sheet; `op` says which.
pub async fn change(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let at = FormAt::new("pp", &FIELDS).sent(&pairs);
    let form = at.clone();
    let said = |name: &str| pairs.iter().find(|p| p.0 == name).map(|p| p.1.as_str());
    let laying = match said("op") {
        Some("route") => Some(Beside::asked(&app, job, Task::Pipe, &pairs).await?),
        _ => None,
    };
    if let Some(laying) = &laying {
        if !laying.wait(&pairs).await {
            return beside::shown(laying, "pipe-run");
        }
        // It is taken over or refused now: the next time it is laid anew.
        app.beside.invalidate(&(job, Task::Pipe));
    }
    let read = move |known: &Assessed, f: &mut Fields| match &laying {
        Some(laying) => laying.outcome(known, f),
        None => typed(known.job(), f),
    };
    submit(&app, job, at, pairs, read, move |known, said: Vec<String>| {
        let mut out = Fragments::of(known, &Here::at(Screen::Ground))?;
        form.clear(&mut out);
        if !said.is_empty() {
            out.put("notice", &escape(&said.join(" · ")));
        }
        let mut response = out.done();
        response.headers_mut().insert("hx-trigger", HeaderValue::from_static("board-changed"));
        Ok(response)
    })
    .await
}

/// The edit, and what is to be said beside it.
fn typed(job: &Job, f: &mut Fields) -> Result<(Edit, Vec<String>), AppError> {
    let picked = ids(f.get("ids"));
    let id = picked.first().cloned().unwrap_or_default();
    let op = f.text("op");
    match op.as_str() {
        "reroute" => {
            let valve = f.text("valve");
            return laid(job, Scope::Valve(&valve), &Progress::default()).or_else(|why| f.stop(why));
        }
        "size" => {
            let sized = sizes(job, None);
            let said = words::sizes_said(&sized, job);
            return match sized.edit {
                Some(edit) => Ok((edit, said)),
                None => f.stop("every pipe already has its lowest-cost size"),
            };
        }
        _ => {}
    }
    if let Some(joint) = job.piping.joint(&id) {
        let kind = f.choice("kind");
        let edit = Edit::put(Joint { kind, ..joint.clone() });
        return if f.errors.is_empty() { Ok((edit, Vec::new())) } else { Err(AppError::Faults(Vec::new())) };
    }
    let Some(leg) = job.piping.leg(&id).cloned() else {
        return Err(AppError::Conflict("this pipe was deleted".into()));
    };
    let leg = match op.as_str() {
        "pipe" => match f.parsed("pipe") {
            Some(pipe) => PipeLeg { pipe, size_pinned: true, ..leg },
            None => leg,
        },
        "pin" => PipeLeg { size_pinned: !leg.size_pinned, ..leg },
        "keep" => PipeLeg { kept: !leg.kept, ..leg },
        "depth" => PipeLeg { depth: f.length_if_any("depth"), ..leg },
        _ => return f.stop("unknown action"),
    };
    if f.errors.is_empty() { Ok((Edit::put(leg), Vec::new())) } else { Err(AppError::Faults(Vec::new())) }
}

/// Routes and then sizes, as one step.
pub fn laid(job: &Job, scope: Scope<'_>, progress: &Progress) -> Outcome {
    progress.expect(2 * job.valves.len());
    let routed = routes_watched(job, scope, progress);
    let mut said: Vec<String> = routed.faults.iter().map(|x| words::route_fault(x, job)).collect();
    let Some(edit) = routed.edit else {
        if said.is_empty() {
            said.push("no drawn heads on valves. Assign heads to valves first".into());
        }
        return Err(said.join("; "));
    };
    let (laid, _) = job.apply(&edit).map_err(|e| e.to_string())?;
    let sized = sizes_watched(&laid, scope.to_size(job), progress);
    said.extend(words::sizes_said(&sized, &laid));
    let edits = std::iter::once(edit).chain(sized.edit).collect();
    Ok((Edit::batch(edits), said))
}

#[derive(Template)]
#[template(path = "parts/together.html")]
struct Page {
    rows: Vec<Row>,
    flow: String,
    at_connection: String,
    main: String,
    fault: String,
}

struct Row {
    number: usize,
    name: String,
    flow: String,
    gets: String,
    alone: String,
    wants: String,
    low: bool,
}

#[derive(Deserialize)]
pub struct Asked {
    #[serde(default)]
    valves: String,
}

/// Valves running at once: pressures at their worst heads, beside what these get when each runs alone.
pub async fn together(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(asked): Query<Asked>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    compute(move || Ok(Html(page(known.job(), &ids(&asked.valves)).render()?).into_response())).await?
}

fn page(job: &Job, picked: &[String]) -> Page {
    let u: UnitSystem = job.units;
    let valves: Vec<&str> = picked.iter().filter(|id| job.valve(id).is_some()).map(String::as_str).collect();
    let mut page = Page {
        rows: Vec::new(),
        flow: String::new(),
        at_connection: String::new(),
        main: String::new(),
        fault: String::new(),
    };
    let supplies: Vec<&str> = valves.iter().filter_map(|v| Some(job.valve(v)?.supply.as_str())).collect();
    if valves.len() < 2 {
        page.fault = "Select two or more valves.".into();
        return page;
    }
    if supplies.iter().any(|s| *s != supplies[0]) {
        page.fault = "These valves are on different points of connection and do not share a mainline.".into();
        return page;
    }
    match run_together(job, &valves) {
        Ok(found) => {
            for zone in &found.zones {
                let low = zone.lowest();
                page.rows.push(Row {
                    number: job.valve_number(&zone.valve),
                    name: job.valve(&zone.valve).map_or_else(String::new, |v| v.name.clone()),
                    flow: zone.flow.show(u),
                    gets: low.nozzle.show(u),
                    alone: zone.worst_alone.map_or_else(|| "–".into(), |p| p.show(u)),
                    wants: low.band.best.show_round(u),
                    low: low.state() == HeadState::Starved,
                });
            }
            page.flow = found.flow.show(u);
            page.at_connection = found.at_connection.show(u);
            page.main = found.main_velocity.show(u);
        }
        Err(fault) => page.fault = words::zone_fault(&fault, u),
    }
    page
}

#[derive(Template)]
#[template(path = "parts/shapes.html")]
struct Shapes {
    rows: Vec<(&'static str, String, String, String, String)>,
}

#[derive(Deserialize)]
pub struct OfValve {
    #[serde(default)]
    valve: String,
}

/// The lateral of a valve branched and as one chain, side by side.
pub async fn shapes(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(asked): Query<OfValve>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    compute(move || {
        let job = known.job();
        let u = job.units;
        let found = job.valve(&asked.valve).and_then(|v| branch_against_chain(job, &Ground::of(job), v));
        let row = |name, s: &Shape| {
            let short = if s.keeps { "" } else { ", too low" };
            let last = format!("{}{short}", s.last.show(u));
            (name, s.pipe.show(u), format!("{:.0}", s.cost), s.first.show(u), last)
        };
        let rows = found.map_or_else(Vec::new, |(branched, chain)| {
            vec![row("branched", &branched), row("in line", &chain)]
        });
        Ok(Html(Shapes { rows }.render()?).into_response())
    })
    .await?
}

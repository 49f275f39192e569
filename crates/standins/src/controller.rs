//! A simulated controller with a sensor for flow and pressure: runs a programme in fast time on the solved
//! network of a site, faults and all. docs/CONTROLLER.md has its protocol.

use axum::extract::{DefaultBodyLimit, State};
use axum::http::StatusCode;
use axum::response::{IntoResponse, Response};
use axum::routing::{get, post, put};
use axum::{Json, Router};
use fenlo_core::assess::{Assessment, assess};
use fenlo_core::job::Job;
use fenlo_core::network::Loss;
use fenlo_core::runtime::sensed;
use fenlo_core::units::{Flow, Pressure};
use fenlo_core::zone::{Stage, ZoneInputs};
use fenlo_formats::controller::{Fault, FaultKind, Faults, LOG, Log, PROGRAMME, Programme, Run, Step};
use fenlo_formats::read_job;
use std::sync::{Arc, Mutex, PoisonError};

/// Largest site that is taken, bytes.
const MOST: usize = 5_000_000;
/// Runs of one programme.
const MOST_RUNS: usize = 5_000;

/// A hole in a lateral: 10 gpm at 30 psi.
fn hole() -> (Flow, Pressure) {
    (Flow::from_gpm(10.0), Pressure::from_psi(30.0))
}
/// What dirt costs beyond a clean filter: 10 psi at 5 gpm, with the square of the flow.
fn dirt() -> Stage {
    Stage::Part {
        label: "dirt".into(),
        loss: Loss::Power {
            fixed: Pressure::ZERO,
            drop: Pressure::from_psi(10.0),
            at_flow: Flow::from_gpm(5.0),
            exponent: 2.0,
        },
    }
}

/// Runs a programme in fast time. Between two moments at which a valve opens or closes the network is solved
/// once.
pub fn run(job: &Job, known: &Assessment, programme: &Programme, faults: &[Fault]) -> Log {
    let mut moments: Vec<u32> =
        programme.runs.iter().flat_map(|r| [r.start, r.start.saturating_add(r.minutes)]).chain([0]).collect();
    moments.sort_unstable();
    moments.dedup();
    let stuck: Vec<&str> =
        faults.iter().filter(|f| f.is == FaultKind::StuckOpen).map(|f| f.valve.as_str()).collect();
    let steps = moments.windows(2).map(|pair| {
        let on = |r: &&Run| r.start <= pair[0] && pair[0] < r.start.saturating_add(r.minutes);
        let mut open: Vec<&str> = programme.runs.iter().filter(on).map(|r| r.valve.as_str()).collect();
        let held: Vec<String> = open.iter().map(|v| (*v).to_owned()).collect();
        open.extend(stuck.iter().filter(|v| !held.iter().any(|h| h == *v)));
        let read = sensed(job, known, &open, |inputs| damaged(inputs, faults));
        Step {
            from: pair[0],
            to: pair[1],
            open: held,
            flow_lpm: read.map(|r| r.0.lpm()),
            pressure_kpa: read.map(|r| r.1.kpa()),
        }
    });
    Log { format: LOG.to_owned(), steps: steps.collect() }
}

fn damaged(inputs: &ZoneInputs, faults: &[Fault]) -> ZoneInputs {
    let mut out = inputs.clone();
    for fault in faults.iter().filter(|f| f.valve == inputs.valve) {
        match fault.is {
            FaultKind::StuckOpen => {}
            FaultKind::BrokenLateral => out.leak = Some(hole()),
            FaultKind::CloggedFilter => {
                let place = out.train.len().min(1);
                out.train.insert(place, dirt());
            }
        }
    }
    out
}

/// What the stand-in holds between requests.
#[derive(Default)]
struct Held {
    site: Option<(Job, Assessment)>,
    programme: Option<Programme>,
    faults: Vec<Fault>,
    log: Option<Log>,
}

type Shared = Arc<Mutex<Held>>;

fn held(state: &Shared) -> std::sync::MutexGuard<'_, Held> {
    state.lock().unwrap_or_else(PoisonError::into_inner)
}

/// The controller's addresses.
pub fn router() -> Router {
    Router::new()
        .route("/health", get(|| async { "running\n" }))
        .route("/site", put(site))
        .route("/faults", put(put_faults))
        .route("/programme", put(put_programme).get(get_programme))
        .route("/run", post(run_now))
        .route("/log", get(log))
        .layer(DefaultBodyLimit::max(MOST))
        .with_state(Shared::default())
}

fn refused(says: impl Into<String>) -> Response {
    (StatusCode::UNPROCESSABLE_ENTITY, says.into() + "\n").into_response()
}

async fn site(State(state): State<Shared>, body: axum::body::Bytes) -> Response {
    let read = tokio::task::spawn_blocking(move || {
        let job = read_job(&body).map_err(|e| e.to_string())?;
        let known = assess(&job);
        Ok::<_, String>((job, known))
    });
    match read.await {
        Ok(Ok(site)) => {
            *held(&state) = Held { site: Some(site), ..Held::default() };
            StatusCode::NO_CONTENT.into_response()
        }
        Ok(Err(says)) => refused(says),
        Err(_) => refused("the site could not be read"),
    }
}

async fn put_faults(State(state): State<Shared>, Json(faults): Json<Faults>) -> Response {
    let mut held = held(&state);
    let unknown = faults
        .faults
        .iter()
        .find(|f| held.site.as_ref().is_none_or(|(job, _)| job.valve(&f.valve).is_none()));
    if let Some(fault) = unknown {
        return refused(format!("there is no valve ‘{}’ here", fault.valve));
    }
    held.faults = faults.faults;
    StatusCode::NO_CONTENT.into_response()
}

async fn put_programme(State(state): State<Shared>, Json(programme): Json<Programme>) -> Response {
    if programme.format != PROGRAMME {
        return refused(format!("the format must be ‘{PROGRAMME}’"));
    }
    if programme.runs.len() > MOST_RUNS {
        return refused(format!("at most {MOST_RUNS} runs"));
    }
    let mut held = held(&state);
    let known = |valve: &str| held.site.as_ref().is_some_and(|(job, _)| job.valve(valve).is_some());
    if let Some(run) = programme.runs.iter().find(|r| !known(&r.valve)) {
        return refused(format!("there is no valve ‘{}’ here", run.valve));
    }
    if programme.runs.iter().any(|r| r.minutes == 0 || r.start > 20_160 || r.minutes > 20_160) {
        return refused("runs last from 1 minute to two weeks, and begin within two weeks");
    }
    held.programme = Some(programme);
    StatusCode::NO_CONTENT.into_response()
}

async fn get_programme(State(state): State<Shared>) -> Response {
    match &held(&state).programme {
        Some(programme) => Json(programme).into_response(),
        None => StatusCode::NOT_FOUND.into_response(),
    }
}

async fn run_now(State(state): State<Shared>) -> Response {
    let work = {
        let held = held(&state);
        match (&held.site, &held.programme) {
            (Some((job, known)), Some(programme)) => {
                (job.clone(), known.clone(), programme.clone(), held.faults.clone())
            }
            _ => return refused("send a site and a program first"),
        }
    };
    let ran = tokio::task::spawn_blocking(move || run(&work.0, &work.1, &work.2, &work.3)).await;
    match ran {
        Ok(log) => {
            held(&state).log = Some(log.clone());
            Json(log).into_response()
        }
        Err(_) => refused("the run broke off"),
    }
}

async fn log(State(state): State<Shared>) -> Response {
    match &held(&state).log {
        Some(log) => Json(log).into_response(),
        None => StatusCode::NOT_FOUND.into_response(),
    }
}

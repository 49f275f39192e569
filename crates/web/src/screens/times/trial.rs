//! A night tried on a controller: sent, run, read back, held against what is predicted.

use super::asked;
use crate::app::compute;
use crate::assessed::Assessed;
use crate::error::AppError;
use crate::submit::Sent;
use axum::response::{Html, IntoResponse, Response};
use fenlo_core::runtime::times;
use fenlo_formats::controller::{Fault, FaultKind, Faults, Log, PROGRAMME, Programme, Run};
use fenlo_formats::write_job;
use std::net::SocketAddr;
use std::sync::Arc;
use std::time::Duration;

/// A controller in fast time answers in moments.
const PATIENCE: Duration = Duration::from_secs(10);

/// Sends the night of a month to the controller and shows its log beside what was predicted.
pub async fn run(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let Some(controller) = app.controller else {
        return Err(AppError::Bad(
            "no controller configured. Start the server with --controller ADDRESS".into(),
        ));
    };
    let known = app.job(job).await?;
    let of = |name: &str| pairs.iter().find(|p| p.0 == name).map_or("", |p| p.1.as_str());
    let month = of("month").parse().ok().filter(|m| (1..=12).contains(m)).unwrap_or(7);
    let kind = match of("fault") {
        "stuck-open" => Some(FaultKind::StuckOpen),
        "broken-lateral" => Some(FaultKind::BrokenLateral),
        "clogged-filter" => Some(FaultKind::CloggedFilter),
        _ => None,
    };
    let faults: Vec<Fault> = kind.map(|is| Fault { valve: of("valve").to_owned(), is }).into_iter().collect();
    let night = night_of(&known, month).await?;
    let log = ask(controller, &known, &night, faults).await.map_err(AppError::Bad)?;
    compute(move || Ok(Html(asked::trial(&known, &log)?).into_response())).await?
}

async fn night_of(known: &Arc<Assessed>, month: u8) -> Result<Programme, AppError> {
    let known = Arc::clone(known);
    compute(move || {
        let year = super::today().year();
        let found = times(known.job(), &known.assessment, known.even(), month, year);
        let run = |r: &fenlo_core::runtime::NightRun| Run {
            valve: found.stations[r.station].valve.clone(),
            start: r.start,
            minutes: r.minutes,
        };
        // What comes later has no valve yet.
        let real = found.night.runs.iter().filter(|r| !found.stations[r.station].later);
        Programme { format: PROGRAMME.to_owned(), runs: real.map(run).collect() }
    })
    .await
}

/// The protocol: site (a simulated one needs it), faults, programme, run.
async fn ask(at: SocketAddr, known: &Assessed, night: &Programme, faults: Vec<Fault>) -> Result<Log, String> {
    let away = |e: reqwest::Error| format!("no answer from the controller at {at}: {}", e.without_url());
    let client = reqwest::Client::builder()
        .timeout(PATIENCE)
        .no_proxy()
        .redirect(reqwest::redirect::Policy::none())
        .build()
        .map_err(away)?;
    let url = |path: &str| format!("http://{at}/{path}");
    let site = client.put(url("site")).body(write_job(known.job()));
    let faults = client.put(url("faults")).json(&Faults { faults });
    let programme = client.put(url("programme")).json(night);
    for (what, request) in [("site", site), ("faults", faults), ("programme", programme)] {
        let answer = request.send().await.map_err(away)?;
        if !answer.status().is_success() {
            let says = answer.text().await.unwrap_or_default();
            let says: String = says.trim().chars().take(200).collect();
            return Err(format!("the controller rejected the {what}: {says}"));
        }
    }
    let answer = client.post(url("run")).send().await.map_err(away)?;
    answer.json().await.map_err(away)
}

//! Job details, house rules, history, the job file.

use super::render_page;
use crate::app::App;
use crate::assessed::Assessed;
use crate::choices::{self, Choice};
use crate::error::AppError;
use crate::fields::{Fields, Pairs, at_fields};
use crate::respond::{Fragments, refuse};
use crate::shell::{Here, Screen};
use askama::Template;
use axum::extract::{Form, Path, State};
use axum::http::header;
use axum::response::{IntoResponse, Redirect, Response};
use fenlo_core::plan::{Edit, HouseRules, Plan, SetJob, SetRules};
use fenlo_formats::write_job;
use fenlo_store::LogLine;

#[derive(Template)]
#[template(path = "details.html")]
struct Details<'a> {
    id: i64,
    plan: &'a Plan,
    units: Vec<Choice>,
    rules: Rules,
    drip: Vec<Choice>,
    heads: Vec<Choice>,
    history: &'a [LogLine],
}

struct Rules {
    flow_margin: String,
    velocity_watch: String,
    velocity_stop: String,
    spread: String,
    regulator_room: String,
    fittings: String,
    drip_rating: String,
    peak_et: String,
    peak_weeks: String,
}

const JOB_FIELDS: [&str; 4] = ["name", "place", "units", "local_code"];
/// Which heads where several kinds would do.
const HEADS: [(&str, &str); 3] = [
    ("by-ground", "by width, plants, soil, slope and wind"),
    ("spray", "sprays wherever they reach"),
    ("rotator", "rotators wherever they reach"),
];
const RULE_FIELDS: [&str; 11] = [
    "heads",
    "peak_et",
    "peak_weeks",
    "flow_margin",
    "velocity_watch",
    "velocity_stop",
    "spread",
    "regulator_room",
    "fittings",
    "drip_rating",
    "drip",
];
const DRIP: [(&str, &str); 3] = [
    ("always-both", "always filter, always regulate"),
    ("regulate-by-rating", "always filter, regulate over the rating"),
    ("filter-if-dirty", "always regulate, filter wells and tanks"),
];

pub fn body(known: &Assessed, history: &[LogLine]) -> Result<String, AppError> {
    let plan = known.job();
    let (r, u) = (&plan.rules, plan.units);
    let percent = |share: f64| format!("{}", (share * 1000.0).round() / 10.0);
    Ok(Details {
        id: known.open.id,
        plan,
        units: choices::of(&choices::UNITS, &choices::word(&u)),
        rules: Rules {
            flow_margin: percent(r.flow_margin),
            velocity_watch: r.velocity_watch.field(u),
            velocity_stop: r.velocity_stop.field(u),
            spread: percent(r.spread),
            regulator_room: r.regulator_room.field(u),
            fittings: percent(r.fittings),
            drip_rating: r.drip_rating.field(u),
            peak_et: r.peak_et.show_depth(u),
            peak_weeks: r.peak_weeks.to_string(),
        },
        drip: choices::of(&DRIP, &choices::word(&r.drip)),
        heads: choices::of(&HEADS, &choices::word(&r.heads)),
        history,
    }
    .render()?)
}

pub async fn page(State(app): State<App>, Path(job): Path<i64>) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let history = app.store.history(job, 60).await?;
    let here = Here::at(Screen::Details, None);
    let page = super::JobPage {
        shell: crate::shell::Shell::new(&known, &here),
        body: body(&known, &history)?,
    };
    Ok(axum::response::Html(page.render()?).into_response())
}

async fn done(
    app: &App,
    job: i64,
    base: i64,
    form: &str,
    fields: &[&str],
    edit: Edit,
) -> Result<Response, AppError> {
    match app.edit(job, base, edit).await {
        Ok(known) => {
            let mut fragments = Fragments::of(&known, &Here::at(Screen::Details, None))?;
            fragments.clear(form, fields);
            Ok(fragments.done())
        }
        Err(AppError::Faults(faults)) => Ok(refuse(form, fields, &at_fields(&faults, fields))),
        Err(error) => Err(error),
    }
}

/// The number of the newest edit that the page showed when this was sent.
pub fn base_of(fields: &Fields, known: &Assessed) -> i64 {
    fields.get("base").parse().unwrap_or(known.open.seq)
}

pub async fn save(
    State(app): State<App>,
    Path(job): Path<i64>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let mut f = Fields::new(pairs, known.job().units);
    let units = f.choice("units");
    let edit = Edit::SetJob(SetJob {
        name: f.text("name"),
        location: f.text("place"),
        local_code: f.text("local_code"),
        units,
    });
    if !f.errors.is_empty() {
        return Ok(refuse("job", &JOB_FIELDS, &f.errors));
    }
    let units_changed = units != known.job().units;
    let response = done(&app, job, base_of(&f, &known), "job", &JOB_FIELDS, edit).await?;
    if units_changed && response.status().is_success() {
        // Every figure on the page changes its unit: show it anew.
        return Ok(([("hx-refresh", "true")], "").into_response());
    }
    Ok(response)
}

pub async fn save_rules(
    State(app): State<App>,
    Path(job): Path<i64>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let mut f = Fields::new(pairs, known.job().units);
    let rules = HouseRules {
        flow_margin: f.percent("flow_margin") / 100.0,
        velocity_watch: f.speed("velocity_watch"),
        velocity_stop: f.speed("velocity_stop"),
        spread: f.percent("spread") / 100.0,
        regulator_room: f.pressure("regulator_room"),
        fittings: f.percent("fittings") / 100.0,
        drip_rating: f.pressure("drip_rating"),
        drip: f.choice("drip"),
        heads: f.choice("heads"),
        peak_et: f.length("peak_et"),
        peak_weeks: f.number("peak_weeks"),
        ..known.job().rules.clone()
    };
    if !f.errors.is_empty() {
        return Ok(refuse("rules", &RULE_FIELDS, &f.errors));
    }
    done(
        &app,
        job,
        base_of(&f, &known),
        "rules",
        &RULE_FIELDS,
        Edit::SetRules(SetRules { rules }),
    )
    .await
}

pub async fn download(State(app): State<App>, Path(job): Path<i64>) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let name: String = known
        .job()
        .name
        .chars()
        .map(|c| {
            if c.is_ascii_alphanumeric() {
                c.to_ascii_lowercase()
            } else {
                '-'
            }
        })
        .take(60)
        .collect();
    let disposition = format!("attachment; filename=\"{name}.json\"");
    Ok((
        [
            (header::CONTENT_TYPE, "application/json".to_owned()),
            (header::CONTENT_DISPOSITION, disposition),
        ],
        write_job(known.job()),
    )
        .into_response())
}

pub async fn delete(
    State(app): State<App>,
    Path(job): Path<i64>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    if !pairs.iter().any(|p| p.0 == "sure" && p.1 == "yes") {
        return render_page(app.job(job).await?, Here::at(Screen::Details, None)).await;
    }
    app.store.delete(job).await?;
    Ok(Redirect::to("/").into_response())
}

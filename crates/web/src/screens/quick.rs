//! Quick check: the daily question, without a job.

use super::jobs::store;
use super::pressure::{OptionView, drawing, options};
use crate::app::{App, compute};
use crate::choices::{self, Choice, Group};
use crate::error::AppError;
use crate::fields::{Fields, Pairs};
use askama::Template;
use axum::extract::{Form, Query, State};
use axum::response::{Html, IntoResponse, Redirect, Response};
use fenlo_core::catalogue::{ArcRule, Catalogue, Role};
use fenlo_core::plan::{Arrangement, HeadGroup, Plan, Regulation, validate};
use fenlo_core::quick::{Question, answer};
use fenlo_core::units::{Flow, Pressure, UnitSystem};
use fenlo_core::working::Working;
use fenlo_drawing::pressure_glyph;

#[derive(Template)]
#[template(path = "quick.html")]
struct Page {
    f: Typed,
    answer: String,
}

/// The form with what was typed.
struct Typed {
    units: Vec<Choice>,
    static_pressure: String,
    meters: Vec<Choice>,
    services: Vec<Choice>,
    service_length: String,
    backflows: Vec<Choice>,
    nozzles: Vec<Group>,
    arc: String,
    count: String,
    spacing: String,
    pipes: Vec<Choice>,
    arrangements: Vec<Choice>,
    distance: String,
    rise: String,
    regulations: Vec<Choice>,
    set: String,
}

#[derive(Template, Default)]
#[template(path = "parts/answer.html")]
struct AnswerPart {
    errors: Vec<(String, String)>,
    fits: String,
    fits_word: String,
    limit: String,
    last: String,
    last_class: &'static str,
    first: String,
    unit: &'static str,
    count: String,
    best: String,
    flow: String,
    flow_unit: &'static str,
    design: String,
    glyph: String,
    advice: String,
    working: Option<Working>,
    params: Pairs,
    svg: String,
    options: Vec<OptionView>,
    notes: Vec<(String, String)>,
}

const USUAL: [(&str, &str); 17] = [
    ("units", "us"),
    ("static", "64 psi"),
    ("meter", "3/4in"),
    ("service", "copper-l 1in"),
    ("service_length", "55 ft"),
    ("backflow", "vacuum-breaker"),
    ("head", "spray-12"),
    ("arc", "180"),
    ("count", "9"),
    ("spacing", "12 ft"),
    ("pipe", "class-200 3/4in"),
    ("arrangement", "chain"),
    ("distance", "40 ft"),
    ("rise", "2 ft"),
    ("regulate", "none"),
    ("set", ""),
    ("name", ""),
];
const REGULATIONS: [(&str, &str); 4] = [
    ("none", "none"),
    ("valve", "on the valve"),
    ("inline", "preset behind the valve"),
    ("body", "in the bodies"),
];

/// Field names as the form labels them.
fn label(field: &str) -> &str {
    match field {
        "static" => "Static pressure",
        "meter" => "Meter",
        "service" => "Service line",
        "service_length" => "Length of the service line",
        "backflow" => "Backflow device",
        "head" => "Nozzle",
        "arc" => "Arc",
        "count" => "How many",
        "spacing" => "Between heads",
        "pipe" => "Lateral",
        "arrangement" => "Piped",
        "distance" => "Valve to first head",
        "rise" => "Rise",
        "set" | "regulate" => "Regulator",
        other => other,
    }
}

fn filled(query: Pairs) -> Pairs {
    if query.is_empty() {
        return USUAL
            .iter()
            .map(|(k, v)| ((*k).to_owned(), (*v).to_owned()))
            .collect();
    }
    query
}

/// The plan that the form asks about, with faults by field.
fn question(pairs: Pairs) -> (Plan, Vec<(String, String)>) {
    let catalogue = Catalogue::builtin();
    let units = if pairs.iter().any(|p| p.0 == "units" && p.1 == "metric") {
        UnitSystem::Metric
    } else {
        UnitSystem::Us
    };
    let mut f = Fields::new(pairs, units);
    let nozzle = catalogue.nozzle(f.get("head"));
    let fixed = nozzle.is_some_and(|n| n.arc_rule == ArcRule::Fixed);
    let given = |text: &str| (!text.is_empty()).then(|| text.to_owned());
    let question = Question {
        units,
        static_pressure: f.pressure("static"),
        dynamic: Vec::new(),
        service: if f.get("service").is_empty() {
            None
        } else {
            f.parsed("service").map(|pipe| (pipe, f.length("service_length")))
        },
        meter: given(f.get("meter")),
        backflow: given(f.get("backflow")),
        valve: "valve-1in".into(),
        nozzle: f.text("head"),
        arc: if fixed {
            360
        } else {
            f.count("arc").min(u32::from(u16::MAX)) as u16
        },
        count: f.count("count"),
        regulation: regulation(&mut f, nozzle.and_then(|n| catalogue.kind(n.kind).body)),
        pipe: f
            .parsed("pipe")
            .unwrap_or_else(|| HeadGroup::new("", "", "").pipe),
        arrangement: serde_json::from_value(f.text("arrangement").into()).unwrap_or(Arrangement::Chain),
        spacing: f.length("spacing"),
        distance: f.length("distance"),
        rise: f.length_or_zero("rise"),
    };
    let plan = question.plan(catalogue);
    let mut errors = f.errors;
    if errors.is_empty() {
        errors = validate(&plan, catalogue)
            .into_iter()
            .map(|fault| (field_of(&fault.path).to_owned(), fault.message))
            .collect();
    }
    (plan, errors)
}

fn regulation(f: &mut Fields, body: Option<Pressure>) -> Regulation {
    let place = f.text("regulate");
    let usual = match place.as_str() {
        "valve" => Some(Pressure::from_psi(40.0)),
        "inline" => Some(Pressure::from_psi(30.0)),
        "body" => Some(body.unwrap_or(Pressure::from_psi(30.0))),
        _ => None,
    };
    let Some(usual) = usual else {
        return Regulation::None;
    };
    let set = f.pressure_if_any("set").unwrap_or(usual);
    match place.as_str() {
        "valve" => Regulation::Valve { set },
        "inline" => Regulation::Inline { set },
        _ => Regulation::Body { set },
    }
}

/// The field behind a path of the plan.
fn field_of(path: &str) -> &'static str {
    match path {
        p if p.contains("readings") => "static",
        p if p.contains("part.size") => "meter",
        p if p.contains("part.model") => "backflow",
        p if p.contains("part.length") => "service_length",
        p if p.contains("].part.") => "service",
        p if p.contains("nozzle") => "head",
        p if p.contains(".arc") => "arc",
        p if p.contains("lots") || p == "groups" => "count",
        p if p.contains("spacing") => "spacing",
        p if p.contains("distance") => "distance",
        p if p.contains("rise") => "rise",
        p if p.contains("pipe") => "pipe",
        _ => "regulate",
    }
}

fn answered(pairs: &Pairs) -> Result<String, AppError> {
    let (plan, errors) = question(pairs.clone());
    if !errors.is_empty() {
        let errors = errors
            .into_iter()
            .map(|(field, message)| (label(&field).to_owned(), message))
            .collect();
        return Ok(AnswerPart {
            errors,
            ..AnswerPart::default()
        }
        .render()?);
    }
    let a = answer(&plan, Catalogue::builtin());
    let u = plan.units;
    let zone = match &a.zone {
        Ok(zone) => zone,
        Err(fault) => {
            return Ok(AnswerPart {
                errors: vec![("The zone".into(), fault.to_string())],
                ..AnswerPart::default()
            }
            .render()?);
        }
    };
    let design = &a.assessment.supplies[0].design;
    let (low, high) = (zone.lowest(), zone.highest());
    let notes = a
        .assessment
        .zones
        .iter()
        .flat_map(|z| &z.findings)
        .chain(&a.assessment.supplies[0].findings)
        .map(|f| {
            (
                f.title.clone(),
                f.remedies.first().map_or_else(
                    || f.text.clone(),
                    |r| format!("{} {}: {}.", f.text, r.label, r.effect),
                ),
            )
        })
        .collect();
    let word = match a.fits {
        None => "not one head fits on a valve".into(),
        Some(1) => "head fits on a valve".into(),
        Some(_) => "heads fit on a valve".into(),
    };
    let with = a
        .regulation
        .as_ref()
        .filter(|c| c.recommended > 0)
        .map(|c| &c.options[c.recommended].zone);
    Ok(AnswerPart {
        errors: Vec::new(),
        fits: a.fits.map_or("0".into(), |n| n.to_string()),
        fits_word: word,
        limit: format!(
            "One more: {}.{}",
            a.limit,
            a.fits_regulated
                .as_ref()
                .map_or(String::new(), |(how, n)| format!(
                    " Regulated ({}): {n}.",
                    how.to_lowercase()
                ))
        ),
        last: low.nozzle.number(u),
        last_class: if low.nozzle < low.band.1 { "stop-text" } else { "" },
        first: high.nozzle.number(u),
        unit: Pressure::unit(u),
        count: zone.heads.len().to_string(),
        best: low.band.0.show_round(u),
        flow: zone.flow.number(u),
        flow_unit: Flow::unit(u),
        design: design.flow.map_or("unknown".into(), |d| d.show(u)),
        glyph: pressure_glyph(low.nozzle, high.nozzle, low.band, u),
        advice: a.regulation.as_ref().map_or(String::new(), |c| {
            format!("{} – {}.", c.options[c.recommended].label, c.why)
        }),
        working: Some(design.working.clone()),
        params: pairs.clone(),
        svg: drawing(&plan, zone, with),
        options: a
            .regulation
            .as_ref()
            .map(|c| options(c, u, None, |_| String::new()))
            .unwrap_or_default(),
        notes,
    }
    .render()?)
}

pub async fn page(Query(query): Query<Pairs>) -> Result<Response, AppError> {
    let pairs: Pairs = filled(query)
        .into_iter()
        .take(30)
        .map(|(k, v)| (k, v.chars().take(100).collect()))
        .collect();
    let html = compute(move || -> Result<String, AppError> {
        let get = |field: &str| pairs.iter().find(|p| p.0 == field).map_or("", |p| p.1.as_str());
        let pipe = |field: &str| get(field).parse().ok();
        let f = Typed {
            units: choices::of(&choices::UNITS, get("units")),
            static_pressure: get("static").to_owned(),
            meters: choices::meters(get("meter"), Some("none")),
            services: choices::pipes(pipe("service").as_ref(), Some("none")),
            service_length: get("service_length").to_owned(),
            backflows: choices::devices(&[Role::Backflow], get("backflow"), Some("none")),
            nozzles: choices::nozzles(Catalogue::builtin(), get("head")),
            arc: get("arc").to_owned(),
            count: get("count").to_owned(),
            spacing: get("spacing").to_owned(),
            pipes: choices::pipes(pipe("pipe").as_ref(), None),
            arrangements: choices::of(&choices::ARRANGEMENTS, get("arrangement")),
            distance: get("distance").to_owned(),
            rise: get("rise").to_owned(),
            regulations: choices::of(&REGULATIONS, get("regulate")),
            set: get("set").to_owned(),
        };
        Ok(Page {
            f,
            answer: answered(&pairs)?,
        }
        .render()?)
    })
    .await??;
    Ok(Html(html).into_response())
}

/// The question as a job, with the recommended regulator left to be chosen there.
pub async fn make_job(State(app): State<App>, Form(pairs): Form<Pairs>) -> Result<Redirect, AppError> {
    let (mut plan, errors) = question(pairs);
    if let Some((field, message)) = errors.into_iter().next() {
        return Err(AppError::Bad(format!("{}: {message}", label(&field))));
    }
    plan.name = format!("{} {} on a valve", plan.groups[0].count(), plan.groups[0].nozzle);
    store(&app, &plan).await
}

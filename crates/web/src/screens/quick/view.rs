//! The quick check as it is shown.

use super::read::question;
use crate::choices::{self, Choice, Group};
use crate::error::AppError;
use crate::fields::Pairs;
use crate::screens::pressure::{OptionView, drawing, options};
use askama::Template;
use fenlo_core::catalogue::{Catalogue, Role};
use fenlo_core::quick::{Answer, answer};
use fenlo_core::remedies;
use fenlo_core::units::{Flow, Pressure, UnitSystem};
use fenlo_drawing::{PressureBar, pressure_glyph};
use fenlo_words::Working;

#[derive(Template)]
#[template(path = "quick.html")]
struct Page {
    u: UnitSystem,
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
    /// How many keep full nominal, how many the aim, how many the bottom of the band.
    three: String,
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

const REGULATIONS: [(&str, &str); 4] = [
    ("none", "none"),
    ("valve", "on the valve"),
    ("inline", "in-line, after the valve"),
    ("body", "in the head bodies"),
];

/// Field names as the form labels them.
pub fn label(field: &str) -> &str {
    match field {
        "static" => "Static pressure",
        "meter" => "Meter",
        "service" => "Service line",
        "service_length" => "Length of the service line",
        "backflow" => "Backflow preventer",
        "head" => "Nozzle",
        "arc" => "Arc",
        "count" => "Number of heads",
        "spacing" => "Head spacing",
        "pipe" => "Lateral",
        "arrangement" => "Lateral layout",
        "distance" => "Valve to first head",
        "rise" => "Highest head above valve",
        "set" | "regulate" => "Regulator",
        "dynamic" => "Pressure with water running",
        "valve" => "Valve",
        other => other,
    }
}

fn answered(pairs: &Pairs) -> Result<String, AppError> {
    let job = match question(pairs) {
        Ok(job) => job,
        Err(faults) => {
            let errors = faults.into_iter().map(|f| (label(f.field).to_owned(), f.message)).collect();
            return Ok(AnswerPart { errors, ..AnswerPart::default() }.render()?);
        }
    };
    let a = answer(&job);
    let u = job.units;
    let zone = match &a.zone {
        Ok(zone) => zone,
        Err(fault) => {
            return Ok(AnswerPart {
                errors: vec![("Zone".into(), fenlo_words::zone_fault(fault, u))],
                ..AnswerPart::default()
            }
            .render()?);
        }
    };
    let design = &a.assessment.supplies[0].design;
    let (low, high) = (zone.lowest(), zone.highest());
    let found = remedies::of_zone(&job, &a.assessment, &job.valves[0])
        .into_iter()
        .chain(remedies::of_supply(&job, &a.assessment, &job.supplies[0]));
    let notes = found
        .map(|f| {
            let said = fenlo_words::finding(&f.finding, &job);
            let text = match f.remedies.first() {
                None => said.text,
                Some(r) => format!(
                    "{} {}: {}.",
                    said.text,
                    fenlo_words::action(&r.action, &job),
                    fenlo_words::gives(r, &job)
                ),
            };
            (said.title, text)
        })
        .collect();
    let on = if design.assumed.is_some() { " per valve (flow assumed)" } else { " on a valve" };
    let word = match a.fits.aim {
        None => format!("no head fits{on}"),
        Some(1) => format!("head fits{on}"),
        Some(_) => format!("heads fit{on}"),
    };
    let with = a.regulation.as_ref().filter(|c| c.recommended > 0).map(|c| &c.options[c.recommended].zone);
    Ok(AnswerPart {
        errors: Vec::new(),
        fits: a.fits.aim.map_or("0".into(), |n| n.to_string()),
        three: three(&a, u),
        fits_word: word,
        limit: format!(
            "Limit: {}.{}",
            fenlo_words::limit(a.limit, design.assumed.is_some(), u),
            a.fits_regulated.map_or(String::new(), |(how, n)| format!(
                " With {}: {}.",
                fenlo_words::inside(&fenlo_words::way(how, u)),
                fenlo_words::counted(n as usize, "head")
            ))
        ),
        last: low.nozzle.number(u),
        last_class: if zone.starved().is_some() { "stop-text" } else { "" },
        first: high.highest.number(u),
        unit: Pressure::unit(u),
        count: zone.heads.len().to_string(),
        best: low.band.best.show_round(u),
        flow: zone.flow.number(u),
        flow_unit: Flow::unit(u),
        design: match (design.flow, design.assumed) {
            (Some(flow), _) => flow.show(u),
            (None, Some(assumed)) => format!("{} assumed", assumed.show(u)),
            (None, None) => "unknown".into(),
        },
        glyph: pressure_glyph(PressureBar::of(zone), u),
        advice: a.regulation.as_ref().map_or(String::new(), |c| {
            format!("{} – {}.", fenlo_words::way(c.options[c.recommended].way, u), fenlo_words::why(c.why, u))
        }),
        working: Some(fenlo_words::design_working(design, u)),
        params: pairs.clone(),
        svg: drawing(&job, zone, with),
        options: a
            .regulation
            .as_ref()
            .map(|c| options(c, u, "USD", None, |_| String::new()))
            .unwrap_or_default(),
        notes,
    }
    .render()?)
}

/// The three counts in one line, each with the pressure that the weakest head then keeps.
fn three(a: &Answer, u: UnitSystem) -> String {
    let Ok(zone) = &a.zone else {
        return String::new();
    };
    let band = zone.lowest().band;
    let count = |n: Option<u32>| n.map_or("none".to_owned(), |n| n.to_string());
    format!(
        "Heads per valve at rated {1}: {0}; at target {3}{4}: {2}; at minimum {6}: {5}.",
        count(a.fits.nominal),
        band.best.show_round(u),
        count(a.fits.aim),
        a.aim.pressure(band).show(u),
        fenlo_words::aim_note(a.aim),
        count(a.fits.least),
        band.least.show_round(u)
    )
}

pub fn page(pairs: &Pairs) -> Result<String, AppError> {
    let get = |field: &str| pairs.iter().find(|p| p.0 == field).map_or("", |p| p.1.as_str());
    let pipe = |field: &str| get(field).parse().ok();
    let f = Typed {
        units: choices::of(&choices::UNITS, get("units")),
        static_pressure: get("static").to_owned(),
        meters: choices::meters(get("meter"), Some("none")),
        services: choices::pipes(pipe("service").as_ref(), Some("none")),
        service_length: get("service_length").to_owned(),
        backflows: choices::devices(&[Role::Backflow], get("backflow"), Some("none")),
        nozzles: choices::nozzles(Catalogue::builtin(), get("head"), UnitSystem::named(get("units"))),
        arc: get("arc").to_owned(),
        count: get("count").to_owned(),
        spacing: get("spacing").to_owned(),
        pipes: choices::pipes(pipe("pipe").as_ref(), None),
        arrangements: choices::terms("lateral", get("arrangement")),
        distance: get("distance").to_owned(),
        rise: get("rise").to_owned(),
        regulations: choices::of(&REGULATIONS, get("regulate")),
        set: get("set").to_owned(),
    };
    Ok(Page { u: UnitSystem::named(get("units")), f, answer: answered(pairs)? }.render()?)
}

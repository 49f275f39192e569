//! Answers to single questions about run times, shown where they are asked.

use crate::assessed::Assessed;
use crate::error::{AppError, escape};
use crate::fields::Fields;
use askama::Template;
use fenlo_core::plan::Date;
use fenlo_core::runtime::{Reading, rain_makes_up, sensed, share_of_bill, stations, suspects};
use fenlo_core::units::Flow;
use fenlo_formats::controller::Log;
use fenlo_words as words;

#[derive(Template)]
#[template(path = "parts/trial.html")]
struct Trial {
    rows: Vec<TrialRow>,
    suspects: Vec<String>,
}

struct TrialRow {
    time: String,
    open: String,
    predicted: String,
    read: String,
    pressure: String,
    off: bool,
}

/// What a controller read in a night, beside what was predicted.
pub fn trial(known: &Assessed, log: &Log) -> Result<String, AppError> {
    let job = known.job();
    let u = job.units;
    let opens = job.watering.rules.opens;
    let mut readings = Vec::new();
    let mut rows = Vec::new();
    for step in &log.steps {
        let open: Vec<&str> = step.open.iter().map(String::as_str).collect();
        let predicted = sensed(job, &known.assessment, &open, Clone::clone).map_or(Flow::ZERO, |r| r.0);
        let read = Flow::from_lpm(step.flow_lpm.unwrap_or(0.0));
        let names: Vec<&str> = open.iter().filter_map(|v| job.valve(v)).map(|v| v.name.as_str()).collect();
        let off = (read - predicted).lpm().abs() > (predicted.lpm() * 0.06).max(0.5);
        rows.push(TrialRow {
            time: format!("{} to {}", opens.later(step.from), opens.later(step.to)),
            open: if names.is_empty() { "nothing".into() } else { names.join(", ") },
            predicted: predicted.show(u),
            read: step.flow_lpm.map_or("no reading".into(), |_| read.show(u)),
            pressure: step
                .pressure_kpa
                .map_or(String::new(), |p| fenlo_core::units::Pressure::from_kpa(p).show(u)),
            off,
        });
        readings.push(Reading { open: step.open.clone(), predicted, read });
    }
    let zones = known.assessment.zones.iter();
    let alone: Vec<(String, Flow)> =
        zones.filter_map(|z| Some((z.valve.clone(), z.zone.as_ref().ok()?.flow))).collect();
    let found = suspects(&readings, &alone);
    Ok(Trial { suspects: found.iter().map(|s| words::suspect(s, job)).collect(), rows }.render()?)
}

/// One party's share of a bill, or what is wrong with what was typed.
pub fn share(known: &Assessed, mut f: Fields) -> String {
    let (own, all) = (f.volume("own"), f.volume("all"));
    let (by_water, fixed) = (f.price("by_water"), f.price("fixed"));
    let agreed = f.percent("agreed") / 100.0;
    if let Some((field, says)) = f.errors.first() {
        return format!(
            "<p class=\"times-warning\">{}: {}</p>",
            match field.as_str() {
                "own" => "Your use",
                "all" => "Total use",
                "by_water" => "Charge based on volume",
                "fixed" => "Fixed charge",
                _ => "Your share of the fixed charge",
            },
            escape(says)
        );
    }
    let u = known.job().units;
    let money = |sum| words::money(sum, &known.job().rules.buying.currency);
    match share_of_bill(own, all, by_water, fixed, agreed) {
        Some(share) => format!(
            "<p>{} of {}: <b>{}</b> = {} × your use ÷ total use + {} × {:.0}%</p>",
            words::round_water(own, u),
            words::round_water(all, u),
            money(share),
            money(by_water),
            money(fixed),
            agreed * 100.0
        ),
        None => "<p class=\"times-warning\">Your use must not exceed the total use, and the total must be \
            above zero.</p>"
            .into(),
    }
}

/// Which stations may be left out after rain, or what is wrong with what was typed.
pub fn rain(known: &Assessed, mut f: Fields, today: Date) -> String {
    let depth = f.depth_if_any("depth");
    let month = f.get("month").parse().ok().filter(|m| (1..=12).contains(m));
    if let Some((_, says)) = f.errors.first() {
        return format!("<p class=\"times-warning\">{}</p>", escape(says));
    }
    let Some(depth) = depth.filter(|d| *d >= fenlo_core::units::Length::ZERO) else {
        return "<p class=\"times-warning\">Enter the gauge reading, 0 or more.</p>".into();
    };
    let all =
        stations(known.job(), &known.assessment, known.even(), month.unwrap_or(today.month()), today.year());
    let mut out = format!(
        "<p>Half of {} counts as effective rain, up to what the root zone holds:</p><ul>",
        depth.show_depth(known.job().units)
    );
    for (place, days) in rain_makes_up(&all, depth) {
        let says = match days {
            0 => "runs as scheduled".to_owned(),
            1 => "skips 1 day".to_owned(),
            n => format!("skips {n} days"),
        };
        out += &format!("<li>{} {}: {says}</li>", all[place].number, escape(&all[place].name));
    }
    out + "</ul>"
}

#[derive(Template)]
#[template(path = "parts/others.html")]
struct Others {
    job: i64,
    jobs: Vec<(i64, String)>,
}

/// Jobs whose hours and climate may be taken.
pub fn others(job: i64, jobs: Vec<(i64, String)>) -> askama::Result<String> {
    Others { job, jobs }.render()
}

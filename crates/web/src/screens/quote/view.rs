//! Quotes as they are shown.

use crate::assessed::Assessed;
use crate::error::AppError;
use askama::Template;
use fenlo_core::plan::LabourRules;
use fenlo_core::pricing::{Quote, changes};
use fenlo_core::units::{M_PER_FT, UnitSystem};
use fenlo_store::{KeptQuote, ShareRow};
use fenlo_words::{Working, labour, quote_change, quote_section};
use rust_decimal::Decimal;

#[derive(Template)]
#[template(path = "quote.html")]
struct Page {
    job: i64,
    u: UnitSystem,
    rules: Rules,
    /// What is wrong or open in the whole job.
    checks: String,
    hours: [(&'static str, &'static str, String); 7],
    by_hand: bool,
    swing_joints: bool,
}

struct Rules {
    currency: String,
    hour: String,
    overhead: String,
    margin: String,
    tax: String,
    round_to: String,
    valid_days: String,
    waste: String,
    lawn_rise: String,
    bed_rise: String,
    stakes: String,
}

pub fn body(known: &Assessed, _pick: Option<&str>) -> Result<String, AppError> {
    let job = known.job();
    let rules = &job.rules.buying;
    let percent = |share: f64| {
        let text = format!("{:.3}", share * 100.0);
        text.trim_end_matches('0').trim_end_matches('.').to_owned()
    };
    let hours = &rules.hours;
    Ok(Page {
        job: known.open.id,
        u: job.units,
        checks: crate::screens::verdict::render(known)?,
        rules: Rules {
            currency: rules.currency.clone(),
            hour: rules.hour.to_string(),
            overhead: percent(rules.overhead),
            margin: percent(rules.margin),
            tax: percent(rules.tax),
            round_to: rules.round_to.to_string(),
            valid_days: rules.valid_days.to_string(),
            waste: percent(rules.waste),
            lawn_rise: rules.lawn_rise.field_depth(job.units),
            bed_rise: rules.bed_rise.field_depth(job.units),
            stakes: rules.stakes.field(job.units),
        },
        hours: [
            ("head", "Per head", hours.head.to_string()),
            ("valve", "Per valve", hours.valve.to_string()),
            match job.units.is_metric() {
                false => ("tube_ft", "Per foot of drip tubing", hours.tube_ft.to_string()),
                true => ("tube_ft", "Per meter of drip tubing", tube_per_m(hours)),
            },
            ("emitter", "Per emitter", hours.emitter.to_string()),
            ("controller", "Per controller", hours.controller.to_string()),
            ("connection", "Per point of connection", hours.connection.to_string()),
            ("crossing", "Per pavement crossing", hours.crossing.to_string()),
        ],
        by_hand: !hours.machine,
        swing_joints: rules.swing_joints,
    }
    .render()?)
}

/// Hours to lay a meter of tubing; the rules keep them by the foot.
pub fn tube_per_m(hours: &LabourRules) -> String {
    let text = format!("{:.4}", hours.tube_ft / M_PER_FT);
    text.trim_end_matches('0').trim_end_matches('.').to_owned()
}

/// A quote in words and digits.
pub struct Shown {
    pub on: String,
    pub until: String,
    pub sections: Vec<(String, String)>,
    pub subtotal: String,
    pub tax_rate: String,
    pub tax: String,
    pub total: String,
}

/// What a customer sees of a quote: no costs, no suppliers.
pub fn shown(quote: &Quote) -> Shown {
    let money = |sum| fenlo_words::money(sum, &quote.currency);
    let rate = (quote.tax_rate * Decimal::ONE_HUNDRED).normalize();
    Shown {
        on: fenlo_words::day(quote.on),
        until: fenlo_words::day(quote.until),
        sections: quote.sections.iter().map(|s| (quote_section(&s.section), money(s.price))).collect(),
        subtotal: money(quote.subtotal),
        tax_rate: format!("{rate}%"),
        tax: money(quote.tax),
        total: money(quote.total),
    }
}

#[derive(Template)]
#[template(path = "parts/quote_now.html")]
struct Now {
    job: i64,
    q: Shown,
    sections: Vec<[String; 4]>,
    labour: Vec<(String, String, String)>,
    cost: String,
    carriage: String,
    left: String,
    working: Working,
    unpriced: Vec<String>,
    zone: bool,
    empty: bool,
}

pub fn now(known: &Assessed, quote: &Quote) -> Result<String, AppError> {
    let money = |sum| fenlo_words::money(sum, &quote.currency);
    let percent = |share: Decimal| format!("{}%", (share * Decimal::ONE_HUNDRED).normalize());
    let step = known.job().rules.buying.round_to;
    let example = quote.sections.first();
    let mut working = Working::new(
        "price = (materials + labor) × (1 + overhead) ÷ (1 − margin), rounded up",
        "your rates; lowest-cost supplier split from the price book",
    )
    .with("overhead", percent(quote.overhead))
    .with("margin", percent(quote.margin))
    .with("rounded up to", money(step));
    if let Some(s) = example {
        working = working
            .with("section", quote_section(&s.section))
            .with("materials with their share of freight", money(s.materials))
            .with("labor", money(s.labour))
            .gives(money(s.price));
    }
    Ok(Now {
        job: known.open.id,
        q: shown(quote),
        sections: quote
            .sections
            .iter()
            .map(|s| [quote_section(&s.section), money(s.materials), money(s.labour), money(s.price)])
            .collect(),
        labour: quote
            .labour
            .iter()
            .map(|l| (labour(l, known.job().units), l.hours.normalize().to_string(), money(l.sum)))
            .collect(),
        cost: money(quote.cost),
        carriage: money(quote.carriage),
        left: money(quote.subtotal - quote.cost),
        working,
        unpriced: quote.unpriced.clone(),
        zone: quote.by == fenlo_core::pricing::SectionBy::Zone,
        empty: quote.sections.is_empty(),
    }
    .render()?)
}

#[derive(Template)]
#[template(path = "parts/quote_versions.html")]
struct Versions {
    job: i64,
    rows: Vec<Version>,
    shares: Vec<Share>,
    link: Option<String>,
    until: String,
    key: String,
}

struct Version {
    version: i32,
    made: String,
    note: String,
    total: String,
    until: String,
    accepted: Option<String>,
    behind: bool,
    changes: Vec<String>,
    more: usize,
}

struct Share {
    name: String,
    what: String,
    until: String,
    open: bool,
}

/// Changes shown of two versions; the rest is counted.
const MOST_CHANGES: usize = 12;

pub fn versions(
    job: i64,
    newest: i64,
    kept: &[KeptQuote],
    shares: &[ShareRow],
    link: Option<String>,
) -> Result<String, AppError> {
    let rows = kept
        .iter()
        .enumerate()
        .map(|(i, k)| {
            let all = kept.get(i + 1).map_or_else(Vec::new, |before| changes(&before.quote, &k.quote));
            Version {
                version: k.version,
                made: fenlo_words::day_of(&k.made),
                note: k.note.clone(),
                total: fenlo_words::money(k.quote.total, &k.quote.currency),
                until: fenlo_words::day(k.quote.until),
                accepted: k.accepted.as_deref().map(fenlo_words::day_of),
                behind: k.seq != newest,
                more: all.len().saturating_sub(MOST_CHANGES),
                changes: all.iter().take(MOST_CHANGES).map(|c| quote_change(c, &k.quote.currency)).collect(),
            }
        })
        .collect();
    Ok(Versions {
        job,
        rows,
        shares: shares
            .iter()
            .map(|s| Share {
                name: s.name.clone(),
                what: match s.version {
                    Some(v) => format!("Quote version {v}"),
                    None => "Crew plan without prices".into(),
                },
                until: fenlo_words::day_of(&s.until),
                open: s.open,
            })
            .collect(),
        link,
        until: super::today().days_later(30).to_string(),
        key: crate::keys::for_form(),
    }
    .render()?)
}

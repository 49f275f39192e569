//! Quotes as they are shown.

use crate::assessed::Assessed;
use crate::error::AppError;
use askama::Template;
use fenlo_core::pricing::{Quote, changes};
use fenlo_core::units::UnitSystem;
use fenlo_store::{KeptQuote, ShareRow};
use fenlo_words::{Working, digits, labour, quote_change, quote_section};
use rust_decimal::Decimal;

#[derive(Template)]
#[template(path = "quote.html")]
struct Page {
    job: i64,
    u: UnitSystem,
    rules: Rules,
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
            ("head", "A head", hours.head.to_string()),
            ("valve", "A valve", hours.valve.to_string()),
            ("tube_ft", "A foot of drip tube", hours.tube_ft.to_string()),
            ("emitter", "An emitter", hours.emitter.to_string()),
            ("controller", "The controller", hours.controller.to_string()),
            ("connection", "A connection", hours.connection.to_string()),
            ("crossing", "A crossing", hours.crossing.to_string()),
        ],
        by_hand: !hours.machine,
        swing_joints: rules.swing_joints,
    }
    .render()?)
}

/// A quote in words and digits.
pub struct Shown {
    pub currency: String,
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
    let rate = (quote.tax_rate * Decimal::ONE_HUNDRED).normalize();
    Shown {
        currency: quote.currency.clone(),
        on: quote.on.to_string(),
        until: quote.until.to_string(),
        sections: quote
            .sections
            .iter()
            .map(|s| (quote_section(&s.section), digits(s.price)))
            .collect(),
        subtotal: digits(quote.subtotal),
        tax_rate: format!("{rate} %"),
        tax: digits(quote.tax),
        total: digits(quote.total),
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
    let percent = |share: Decimal| format!("{} %", (share * Decimal::ONE_HUNDRED).normalize());
    let step = known.job().rules.buying.round_to;
    let example = quote.sections.first();
    let mut working = Working::new(
        "price = (materials + labour) · (1 + overhead) / (1 − margin), rounded up",
        "your own rates; prices of the book's cheapest basket",
    )
    .with("overhead", percent(quote.overhead))
    .with("margin", percent(quote.margin))
    .with("rounded up to", digits(step));
    if let Some(s) = example {
        working = working
            .with("section", quote_section(&s.section))
            .with("materials, with their share of carriage", digits(s.materials))
            .with("labour", digits(s.labour))
            .gives(digits(s.price));
    }
    Ok(Now {
        job: known.open.id,
        q: shown(quote),
        sections: quote
            .sections
            .iter()
            .map(|s| {
                [
                    quote_section(&s.section),
                    digits(s.materials),
                    digits(s.labour),
                    digits(s.price),
                ]
            })
            .collect(),
        labour: quote
            .labour
            .iter()
            .map(|l| (labour(l), l.hours.normalize().to_string(), digits(l.sum)))
            .collect(),
        cost: digits(quote.cost),
        carriage: digits(quote.carriage),
        left: digits(quote.subtotal - quote.cost),
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
            let all = kept
                .get(i + 1)
                .map_or_else(Vec::new, |before| changes(&before.quote, &k.quote));
            Version {
                version: k.version,
                made: k.made.clone(),
                note: k.note.clone(),
                total: format!("{} {}", digits(k.quote.total), k.quote.currency),
                until: k.quote.until.to_string(),
                accepted: k.accepted.clone(),
                behind: k.seq != newest,
                more: all.len().saturating_sub(MOST_CHANGES),
                changes: all.iter().take(MOST_CHANGES).map(quote_change).collect(),
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
                    Some(v) => format!("Quote {v}"),
                    None => "Plan for the crew, without prices".into(),
                },
                until: s.until.clone(),
                open: s.open,
            })
            .collect(),
        link,
        until: super::today().days_later(30).to_string(),
        key: crate::keys::for_form(),
    }
    .render()?)
}

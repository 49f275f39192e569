//! Words for quotes.

use crate::working::Working;
use fenlo_core::pricing::{FirstCost, Labour, QuoteChange, Section, Work, YEARS};
use rust_decimal::Decimal;

/// The name of a section.
pub fn quote_section(section: &Section) -> String {
    match section {
        Section::Shared => "What all zones share".into(),
        Section::Zone(number, _, name) => format!("Zone {number}: {name}"),
        Section::Work(work) => match work {
            Work::Connection => "Connection and backflow protection",
            Work::Pipe => "Trenches and pipe",
            Work::Heads => "Heads and nozzles",
            Work::Valves => "Valves and control",
            Work::Drip => "Drip",
            Work::Other => "Sundries",
        }
        .into(),
    }
}

/// A line of labour: what is done, and how much of it.
pub fn labour(work: &Labour) -> String {
    let n = work.count;
    match work.unit.as_str() {
        "trench" => format!("Trench dug and filled, {n:.0} ft"),
        "crossing" => format!("Crossings under paving, {n:.0}"),
        "head" => format!("Heads set and adjusted, {n:.0}"),
        "valve" => format!("Valves with box and wire, {n:.0}"),
        "tube" => format!("Drip tube laid and pinned, {n:.0} ft"),
        "emitter" => format!("Emitters at plants, {n:.0}"),
        "controller" => "Controller hung and set".into(),
        "connection" => format!("Connection made, {n:.0}"),
        other => other.to_owned(),
    }
}

/// A sum with its currency: two decimals, thousands parted by thin spaces.
pub fn money(sum: Decimal, currency: &str) -> String {
    format!("{} {currency}", digits(sum))
}

/// The same without the currency.
pub fn digits(sum: Decimal) -> String {
    let text = format!("{:.2}", sum.abs());
    let (whole, cents) = text.split_once('.').unwrap_or((&text, "00"));
    let mut out = String::new();
    for (i, c) in whole.chars().enumerate() {
        if i > 0 && (whole.len() - i) % 3 == 0 {
            out.push('\u{202f}');
        }
        out.push(c);
    }
    let sign = if sum.is_sign_negative() && !sum.is_zero() {
        "−"
    } else {
        ""
    };
    format!("{sign}{out}.{cents}")
}

/// One difference between two quotes.
pub fn quote_change(change: &QuoteChange) -> String {
    let count = |n: &Decimal| n.normalize().to_string();
    match change {
        QuoteChange::Quantity { text, was, is } if was.is_zero() => format!("{text}: {} new", count(is)),
        QuoteChange::Quantity { text, was, is } if is.is_zero() => format!("{text}: {} left out", count(was)),
        QuoteChange::Quantity { text, was, is } => format!("{text}: {} instead of {}", count(is), count(was)),
        QuoteChange::Price { text, was, is } => {
            let say = |p: &Option<Decimal>| p.map_or_else(|| "no price".to_owned(), digits);
            format!("{text}: {} each instead of {}", say(is), say(was))
        }
        QuoteChange::Section { section, was, is } => {
            format!(
                "{}: {} instead of {}",
                quote_section(section),
                digits(*is),
                digits(*was)
            )
        }
        QuoteChange::Total { was, is } => format!("In all: {} instead of {}", digits(*is), digits(*was)),
    }
}

/// What an alternative costs, step by step.
pub fn first_cost(cost: &FirstCost, currency: &str) -> Working {
    let mut working = Working::new(
        format!("materials + labour; with {YEARS} years of water beside it"),
        "least prices of your book, hours and rate of the house, the job's tariff over a season of six \
            months alike. \
         Pipe, trench, boxes and connection are much the same for all and are left out",
    )
    .with(
        "bodies, nozzles, swing joints, tube, emitters, valves",
        money(cost.materials, currency),
    )
    .with("labour for heads, tube and valves", money(cost.labour, currency));
    if let Some(water) = cost.water {
        working = working.with("water a year", money(water, currency));
    }
    if !cost.unpriced.is_empty() {
        working = working.with("without a price, not in it", cost.unpriced.join(", "));
    }
    working.gives(match cost.over_years() {
        Some(all) => format!(
            "{}; over {YEARS} years {}",
            money(cost.first(), currency),
            money(all, currency)
        ),
        None => money(cost.first(), currency),
    })
}

//! Words for quotes.

use crate::working::Working;
use fenlo_core::pricing::{
    Against, FirstCost, Kit, KitOffer, Labour, PaidBack, QuoteChange, Saving, Section, Work, YEARS,
};
use fenlo_core::units::{UnitSystem, Volume};
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

/// What a way saves against another, in round figures: "12,000 gal and 92 USD less a year, 140 USD more to put in:
/// paid back in 1.5 years".
pub fn saving(saving: &Saving, u: UnitSystem, currency: &str) -> String {
    let litres = saving.water.litres();
    let water = crate::round_water(two_digits(saving.water, u), u).replace(".0 m³", " m³");
    let money = saving.money.filter(|sum| !sum.round().is_zero());
    let mut said = match money {
        _ if saving.is_alike() => "the same water".to_owned(),
        // Steps of a tariff can make less water cost the same, never more.
        Some(sum) if sum.is_sign_negative() == (litres < 0.0) => {
            format!("{water} and {}", money_of(sum, currency))
        }
        _ => water,
    };
    said += match litres < 0.0 {
        _ if saving.is_alike() => "",
        true => " more a year",
        false => " less a year",
    };
    match saving.more {
        Some(more) if more.round().is_zero() => said += ", the same to put in",
        Some(more) => {
            let word = if more.is_sign_negative() { "less" } else { "more" };
            said += &format!(", {} {word} to put in", money_of(more, currency));
        }
        None => {}
    }
    let back = match saving.paid_back() {
        PaidBack::AtOnce | PaidBack::Unknown => return said,
        PaidBack::After(years) if years > 30.0 => "not paid back in 30 years".to_owned(),
        PaidBack::After(years) => format!("paid back in {}", years_said(years)),
        PaidBack::Never => "never paid back".to_owned(),
        PaidBack::EatenUp(years) if years > 30.0 => return said,
        PaidBack::EatenUp(years) => format!("eaten up by its water in {}", years_said(years)),
    };
    format!("{said}: {back}")
}

fn years_said(years: f64) -> String {
    match (years * 10.0).round() as u64 {
        0 => "a month".into(),
        10 => "1 year".into(),
        100.. => format!("{years:.0} years"),
        _ => format!("{years:.1} years"),
    }
}

/// A difference of two estimates is not known to more than two digits, in the reader's unit.
pub(crate) fn two_digits(water: Volume, u: UnitSystem) -> Volume {
    let unit = if u.is_metric() {
        1.0
    } else {
        Volume::from_gal(1.0).litres()
    };
    let value = water.litres().abs() / unit;
    let step = 10f64.powf(value.max(1.0).log10().floor() - 1.0);
    Volume::from_litres((value / step).round() * step * unit)
}

fn money_of(sum: Decimal, currency: &str) -> String {
    money(sum.abs().round(), currency).replace(".00", "")
}

/// Why others are held against a kind.
pub fn against(because: Against) -> &'static str {
    match because {
        Against::Planned => "as planned now",
        Against::Cheapest => "the cheapest to put in",
        Against::Thirstiest => "the thirstiest",
    }
}

/// A kit beside its parts: “3 × Drip control kit (K25): 96.00 at North; its parts one by one 112.20: saves 16.20”.
pub fn kit_offer(kit: &Kit, offer: &KitOffer) -> String {
    let name = match kit.text.is_empty() {
        true => kit.number.clone(),
        false => format!("{} ({})", kit.text, kit.number),
    };
    let kit = match &offer.costs {
        Some((supplier, sum)) => format!("{} × {name}: {} at {supplier}", offer.times, digits(*sum)),
        None => return format!("{} × {name} would fit: it has no price", offer.times),
    };
    match offer.saves() {
        None => format!(
            "{kit}; not to be compared: no price of {}",
            offer.unpriced.join(", ")
        ),
        Some(saves) => {
            let told = match saves.is_sign_negative() && !saves.is_zero() {
                true => format!("costs {} more", digits(saves.abs())),
                false => format!("saves {}", digits(saves)),
            };
            format!("{kit}; its parts one by one {}: {told}", digits(offer.parts))
        }
    }
}

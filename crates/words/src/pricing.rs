//! Words for quotes.

use crate::working::Working;
use fenlo_core::layout::YEARS;
use fenlo_core::pricing::{
    Against, FirstCost, Kit, KitOffer, Labour, PaidBack, QuoteChange, Saving, Section, Work,
};
use fenlo_core::units::{Length, UnitSystem, Volume};
use rust_decimal::Decimal;
use rust_decimal::prelude::{FromPrimitive, ToPrimitive};

/// The name of a section.
pub fn quote_section(section: &Section) -> String {
    match section {
        Section::Shared => "Shared by all zones".into(),
        Section::Zone(number, _, name) => format!("Zone {number}: {name}"),
        Section::Work(work) => match work {
            Work::Connection => "Point of connection and backflow preventer",
            Work::Pipe => "Trenching and pipe",
            Work::Heads => "Heads and nozzles",
            Work::Valves => "Valves, wire and controller",
            Work::Drip => "Drip",
            Work::Other => "Miscellaneous materials",
        }
        .into(),
    }
}

/// A line of labor: what is done, and how much of it in the units of the job. Trench and tubing are counted
/// in feet in the rules; other work in pieces.
pub fn labour(work: &Labour, u: UnitSystem) -> String {
    let n = work.count;
    let feet = n.to_f64().unwrap_or_default();
    let length = Length::from_ft(feet).show_whole(u);
    match work.unit.as_str() {
        "trench" => format!("Trenching and backfill, {length}"),
        "crossing" => format!("Pavement crossings, {n:.0}"),
        "head" => format!("Heads installed and adjusted, {n:.0}"),
        "valve" => format!("Valves installed with box and wire, {n:.0}"),
        "tube" => format!("Drip tubing laid and staked, {length}"),
        "emitter" => format!("Emitters installed at plants, {n:.0}"),
        "controller" => "Controller mounted and programmed".into(),
        "connection" => format!("Point of connection made, {n:.0}"),
        other => other.to_owned(),
    }
}

/// A sum with its currency: `$1,234.50` in dollars, else `1,234.50 EUR`. A minus is `−`.
pub fn money(sum: Decimal, currency: &str) -> String {
    with_currency(sum, &format!("{:.2}", sum.abs()), currency)
}

/// A price of one piece: to the cent, or as fine as it is.
pub fn price(price: Decimal, currency: &str) -> String {
    let decimals = price.normalize().scale().max(2) as usize;
    with_currency(price, &format!("{:.decimals$}", price.abs()), currency)
}

/// A sum without cents, for estimates: `$1,235`, `1,235 EUR`.
pub fn whole_money(sum: Decimal, currency: &str) -> String {
    let sum = sum.round();
    with_currency(sum, &format!("{:.0}", sum.abs()), currency)
}

/// An estimate of the model as a sum without cents. What is no number is zero.
pub fn estimate(sum: f64, currency: &str) -> String {
    whole_money(Decimal::from_f64(sum).unwrap_or_default(), currency)
}

fn with_currency(sum: Decimal, digits: &str, currency: &str) -> String {
    let sign = if sum.is_sign_negative() && !sum.is_zero() { "−" } else { "" };
    let digits = fenlo_core::units::grouped(digits);
    match currency {
        "USD" | "CAD" | "AUD" | "NZD" => format!("{sign}${digits}"),
        other => format!("{sign}{digits} {other}"),
    }
}

/// One difference between two quotes.
pub fn quote_change(change: &QuoteChange, currency: &str) -> String {
    let money = |sum: &Decimal| money(*sum, currency);
    let count = |n: &Decimal| n.normalize().to_string();
    match change {
        QuoteChange::Quantity { text, was, is } if was.is_zero() => format!("{text}: {} added", count(is)),
        QuoteChange::Quantity { text, was, is } if is.is_zero() => format!("{text}: {} removed", count(was)),
        QuoteChange::Quantity { text, was, is } => format!("{text}: {} (was {})", count(is), count(was)),
        QuoteChange::Price { text, was, is } => {
            let say = |p: &Option<Decimal>| p.as_ref().map_or_else(|| "no price".to_owned(), money);
            format!("{text}: unit price {} (was {})", say(is), say(was))
        }
        QuoteChange::Section { section, was, is } => {
            format!("{}: {} (was {})", quote_section(section), money(is), money(was))
        }
        QuoteChange::Total { was, is } => format!("Total: {} (was {})", money(is), money(was)),
    }
}

/// What an alternative costs, step by step.
pub fn first_cost(cost: &FirstCost, currency: &str) -> Working {
    let mut working = Working::new(
        format!("first cost = materials + labor; {YEARS}-year cost adds water"),
        "lowest prices in your price book, company labor hours and rate, this job's water rate over a \
            six-month season. Pipe, trenching, boxes and point of connection are about the same for every \
            option and are left out",
    )
    .with("bodies, nozzles, swing joints, tubing, emitters, valves", money(cost.materials, currency))
    .with("labor for heads, tubing and valves", money(cost.labour, currency));
    if let Some(water) = cost.water {
        working = working.with("water cost per year", money(water, currency));
    }
    if !cost.unpriced.is_empty() {
        working = working.with("no price, not included", cost.unpriced.join(", "));
    }
    working.gives(match cost.over_years() {
        Some(all) => {
            format!("{} now; {} over {YEARS} years", money(cost.first(), currency), money(all, currency))
        }
        None => money(cost.first(), currency),
    })
}

/// What a way saves against another, in round figures: "12,000 gal and $92 less per year, $140 more to
/// install: payback 1.5 years".
pub fn saving(saving: &Saving, u: UnitSystem, currency: &str) -> String {
    let litres = saving.water.litres();
    let water = crate::round_water(two_digits(saving.water, u), u).replace(".0 m³", " m³");
    let money = saving.money.filter(|sum| !sum.round().is_zero());
    let mut said = match money {
        _ if saving.is_alike() => "same water use".to_owned(),
        // Steps of a tariff can make less water cost the same, never more.
        Some(sum) if sum.is_sign_negative() == (litres < 0.0) => {
            format!("{water} and {}", money_of(sum, currency))
        }
        _ => water,
    };
    said += match litres < 0.0 {
        _ if saving.is_alike() => "",
        true => " more per year",
        false => " less per year",
    };
    match saving.more {
        Some(more) if more.round().is_zero() => said += ", same installed cost",
        Some(more) => {
            let word = if more.is_sign_negative() { "less" } else { "more" };
            said += &format!(", {} {word} to install", money_of(more, currency));
        }
        None => {}
    }
    let back = match saving.paid_back() {
        PaidBack::AtOnce | PaidBack::Unknown => return said,
        PaidBack::After(years) if years > 30.0 => "payback over 30 years".to_owned(),
        PaidBack::After(years) => format!("payback {}", years_said(years)),
        PaidBack::Never => "does not pay back".to_owned(),
        PaidBack::EatenUp(years) if years > 30.0 => return said,
        PaidBack::EatenUp(years) => format!("higher water cost uses up the saving in {}", years_said(years)),
    };
    format!("{said}: {back}")
}

fn years_said(years: f64) -> String {
    match (years * 10.0).round() as u64 {
        0 => "under 1 month".into(),
        10 => "1 year".into(),
        100.. => format!("{years:.0} years"),
        _ => format!("{years:.1} years"),
    }
}

/// A difference of two estimates is not known to more than two digits, in the reader's unit.
pub(crate) fn two_digits(water: Volume, u: UnitSystem) -> Volume {
    let unit = if u.is_metric() { 1.0 } else { Volume::from_gal(1.0).litres() };
    let value = water.litres().abs() / unit;
    let step = 10f64.powf(value.max(1.0).log10().floor() - 1.0);
    Volume::from_litres((value / step).round() * step * unit)
}

fn money_of(sum: Decimal, currency: &str) -> String {
    whole_money(sum.abs(), currency)
}

/// Why others are held against a kind.
pub fn against(because: Against) -> &'static str {
    match because {
        Against::Planned => "current plan",
        Against::Cheapest => "lowest installed cost",
        Against::Thirstiest => "highest water use",
    }
}

/// A kit beside its parts: “3 × Drip control kit (K25): $96.00 at North; parts bought separately $112.20:
/// saves $16.20”.
pub fn kit_offer(kit: &Kit, offer: &KitOffer, currency: &str) -> String {
    let money = |sum: Decimal| money(sum, currency);
    let name = match kit.text.is_empty() {
        true => kit.number.clone(),
        false => format!("{} ({})", kit.text, kit.number),
    };
    let kit = match &offer.costs {
        Some((supplier, sum)) => format!("{} × {name}: {} at {supplier}", offer.times, money(*sum)),
        None => return format!("{} × {name} would fit, but has no price", offer.times),
    };
    match offer.saves() {
        None => format!("{kit}; cannot compare, no price for {}", offer.unpriced.join(", ")),
        Some(saves) => {
            let told = match saves.is_sign_negative() && !saves.is_zero() {
                true => format!("costs {} more", money(saves.abs())),
                false => format!("saves {}", money(saves)),
            };
            format!("{kit}; parts bought separately {}: {told}", money(offer.parts))
        }
    }
}

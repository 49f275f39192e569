//! Quotes offered side by side: the same ground, watered in other ways.

use super::quote::{Quote, Section, SectionBy};
use rust_decimal::Decimal;

/// Options of one offer at the most: more columns than a page holds, and than anybody weighs.
pub const MOST_OPTIONS: usize = 4;

/// Why quotes can't be offered side by side.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum OptionsFault {
    /// One quote is no choice, and more than a page holds are none either.
    #[error("select two to four versions")]
    Count,
    /// Sums of two currencies can't be weighed.
    #[error("these versions use two currencies. Save one again")]
    Currency,
    /// Zones differ from option to option, kinds of work don't.
    #[error(
        "a version is broken down by zone, and zones differ between options. Save it again broken down by \
            work"
    )]
    ByZone,
}

/// What options come to.
#[derive(Debug, Clone, PartialEq)]
pub struct Options {
    /// Each section of any, with its price in every option; none: it has no such work.
    pub sections: Vec<(Section, Vec<Option<Decimal>>)>,
    /// What each costs more than the cheapest of them, tax in it.
    pub over: Vec<Decimal>,
    /// The cheapest: its place.
    pub cheapest: usize,
}

/// Quotes side by side, section by section.
///
/// # Errors
/// [`OptionsFault`].
///
/// # Example
/// 1,200 beside 1,450: the second costs 250 more (a test holds it).
pub fn side_by_side(quotes: &[&Quote]) -> Result<Options, OptionsFault> {
    if !(2..=MOST_OPTIONS).contains(&quotes.len()) {
        return Err(OptionsFault::Count);
    }
    if quotes.iter().any(|q| q.currency != quotes[0].currency) {
        return Err(OptionsFault::Currency);
    }
    if quotes.iter().any(|q| q.by == SectionBy::Zone) {
        return Err(OptionsFault::ByZone);
    }
    let mut names: Vec<&Section> =
        quotes.iter().flat_map(|q| q.sections.iter().map(|s| &s.section)).collect();
    names.sort();
    names.dedup();
    let price = |q: &&Quote, name: &Section| {
        let at = q.sections.iter().find(|s| s.section == *name);
        at.map(|s| s.price)
    };
    let sections = names
        .into_iter()
        .map(|name| (name.clone(), quotes.iter().map(|q| price(q, name)).collect()))
        .collect();
    let cheapest = (0..quotes.len()).min_by_key(|i| quotes[*i].total).unwrap_or(0);
    let least = quotes[cheapest].total;
    Ok(Options { sections, over: quotes.iter().map(|q| q.total - least).collect(), cheapest })
}

//! What differs between two quotes.

use super::quote::{Quote, Section};
use rust_decimal::Decimal;
use std::collections::BTreeMap;

/// One difference; earlier and later.
#[derive(Debug, Clone, PartialEq)]
pub enum QuoteChange {
    /// A part came, went, or is another quantity.
    Quantity {
        /// For people.
        text: String,
        /// Before; zero: it was not there.
        was: Decimal,
        /// Now; zero: it is not there.
        is: Decimal,
    },
    /// The same part at another price.
    Price {
        /// For people.
        text: String,
        /// Before; none: it had none.
        was: Option<Decimal>,
        /// Now.
        is: Option<Decimal>,
    },
    /// A section comes to something else.
    Section {
        /// Which.
        section: Section,
        /// Before.
        was: Decimal,
        /// Now.
        is: Decimal,
    },
    /// What the customer pays.
    Total {
        /// Before.
        was: Decimal,
        /// Now.
        is: Decimal,
    },
}

/// What changed from one quote to the next: the total first, then sections, then parts.
pub fn changes(was: &Quote, is: &Quote) -> Vec<QuoteChange> {
    let mut out = Vec::new();
    if was.total != is.total {
        out.push(QuoteChange::Total { was: was.total, is: is.total });
    }
    let sections = |q: &Quote| -> BTreeMap<Section, Decimal> {
        q.sections.iter().map(|s| (s.section.clone(), s.price)).collect()
    };
    let (a, b) = (sections(was), sections(is));
    let mut names: Vec<&Section> = a.keys().chain(b.keys()).collect();
    names.sort();
    names.dedup();
    for section in names {
        let of = |all: &BTreeMap<Section, Decimal>| all.get(section).copied().unwrap_or_default();
        if of(&a) != of(&b) {
            out.push(QuoteChange::Section { section: section.clone(), was: of(&a), is: of(&b) });
        }
    }
    let lines = |q: &Quote| -> BTreeMap<String, (String, Decimal, Option<Decimal>)> {
        let all = q.lines.iter();
        all.map(|l| (l.part.clone(), (l.text.clone(), l.quantity, l.price))).collect()
    };
    let (a, b) = (lines(was), lines(is));
    let mut parts: Vec<&String> = a.keys().chain(b.keys()).collect();
    parts.sort();
    parts.dedup();
    for part in parts {
        let (x, y) = (a.get(part), b.get(part));
        let text = y.or(x).map_or_else(String::new, |l| l.0.clone());
        let of = |l: Option<&(String, Decimal, Option<Decimal>)>| l.map_or(Decimal::ZERO, |l| l.1);
        if of(x) != of(y) {
            out.push(QuoteChange::Quantity { text, was: of(x), is: of(y) });
        } else if let (Some(x), Some(y)) = (x, y)
            && x.2 != y.2
        {
            out.push(QuoteChange::Price { text, was: x.2, is: y.2 });
        }
    }
    out
}

//! A bundle under one number against its parts bought one by one.

use super::book::{PriceBook, part_key, quantity_of};
use super::cents;
use crate::takeoff::Line;
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};
use std::collections::HashMap;

/// Different parts of a kit at most, and of one part.
const MOST_PARTS: usize = 40;
const MOST_OF_ONE: u32 = 10_000;

/// A bundle: a drip kit, a control kit.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Kit {
    /// Its number in the price book.
    pub number: String,
    /// What the company calls it.
    pub text: String,
    /// What is in it: numbers of the price book, or names of parts where they have none, and how many.
    pub parts: Vec<(String, u32)>,
}

/// Why a kit can't be kept, in words.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum KitFault {
    /// No number, or one too long.
    #[error("a kit needs an item number of 1 to 64 characters")]
    NoNumber,
    /// Nothing in it, or too much.
    #[error("a kit has from 1 to {MOST_PARTS} different parts")]
    NoParts,
    /// A line that does not say how many of what.
    #[error("‘{0}’: enter quantity and item number, such as 2 F1133")]
    Line(String),
    /// It would contain itself.
    #[error("a kit cannot contain itself")]
    Itself,
}

impl Kit {
    /// A kit as typed: a line for each part, how many and its number. The same number on two lines is added up.
    ///
    /// # Errors
    /// [`KitFault`].
    ///
    /// # Example
    /// `1 F1133` and `2 F1030`: one of the first and two of the second.
    pub fn typed(number: &str, text: &str, lines: &str) -> Result<Self, KitFault> {
        let number = number.trim();
        if number.is_empty() || number.chars().count() > 64 {
            return Err(KitFault::NoNumber);
        }
        let mut parts: Vec<(String, u32)> = Vec::new();
        for line in lines.lines().map(str::trim).filter(|l| !l.is_empty()) {
            let fault = || KitFault::Line(line.chars().take(40).collect());
            let (n, part) = line.split_once(char::is_whitespace).ok_or_else(fault)?;
            let n: u32 = n.trim_end_matches(['x', '×']).parse().map_err(|_| fault())?;
            let part = part.trim().trim_start_matches(['x', '×']).trim_start();
            if n == 0 || n > MOST_OF_ONE || part.is_empty() || part.chars().count() > 120 {
                return Err(fault());
            }
            if part == number {
                return Err(KitFault::Itself);
            }
            match parts.iter_mut().find(|p| p.0 == part) {
                Some(known) => known.1 = (known.1 + n).min(MOST_OF_ONE),
                None => parts.push((part.to_owned(), n)),
            }
        }
        if parts.is_empty() || parts.len() > MOST_PARTS {
            return Err(KitFault::NoParts);
        }
        Ok(Self { number: number.to_owned(), text: text.trim().to_owned(), parts })
    }
}

/// A kit beside its parts, as often as a list has all of them.
#[derive(Debug, Clone, PartialEq)]
pub struct KitOffer {
    /// Its place among the kits.
    pub kit: usize,
    /// As often as it fits into the list.
    pub times: u32,
    /// Who sells it for the least, and what so many cost; none: it has no price.
    pub costs: Option<(String, Decimal)>,
    /// What its parts cost, each from whoever sells it for the least, whole packs left out of account.
    pub parts: Decimal,
    /// Parts of it that have no price: they are not in that sum.
    pub unpriced: Vec<String>,
}

impl KitOffer {
    /// What it saves against its parts, below zero where it costs more; none while a price is missing.
    pub fn saves(&self) -> Option<Decimal> {
        let (_, costs) = self.costs.as_ref()?;
        self.unpriced.is_empty().then(|| self.parts - costs)
    }
}

/// Every kit of which a list has all the parts at least once, what saves most first.
///
/// # Example
/// Four valves, four filters and three presets: a kit of one of each fits three times.
pub fn kit_offers(book: &PriceBook, kits: &[Kit], lines: &[Line]) -> Vec<KitOffer> {
    let mut wanted: HashMap<String, Decimal> = HashMap::new();
    for line in lines {
        let key = part_key(&line.part, line.piece);
        let number = book.number_of(&key).to_owned();
        // By its own number, and by the name of the part.
        if number != key {
            *wanted.entry(key).or_default() += quantity_of(line);
        }
        *wanted.entry(number).or_default() += quantity_of(line);
    }
    let offer = |(place, kit): (usize, &Kit)| {
        let fits = |(part, n): &(String, u32)| {
            let has = wanted.get(part).copied().unwrap_or_default();
            u32::try_from((has / Decimal::from(*n)).floor()).unwrap_or(0)
        };
        let times = kit.parts.iter().map(fits).min().filter(|n| *n > 0)?;
        let costs = book.prices.iter().filter(|p| p.number == kit.number).map(|p| {
            let sum = cents(p.bought(Decimal::from(times)) * p.price);
            (p.supplier.clone(), sum)
        });
        let (mut parts, mut unpriced) = (Decimal::ZERO, Vec::new());
        for (part, n) in &kit.parts {
            let number = book.number_of(part);
            let prices = book.prices.iter().filter(|p| p.number == number);
            match prices.map(|p| p.price).min() {
                Some(price) => parts += price * Decimal::from(n * times),
                None => unpriced.push(part.clone()),
            }
        }
        Some(KitOffer { kit: place, times, costs: costs.min_by_key(|c| c.1), parts: cents(parts), unpriced })
    };
    let mut offers: Vec<KitOffer> = kits.iter().enumerate().filter_map(offer).collect();
    offers.sort_by_key(|o| std::cmp::Reverse(o.saves()));
    offers
}

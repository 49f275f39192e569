//! The company's price book: own numbers, suppliers side by side, packs, minimum, carriage.

use crate::plan::Date;
use crate::takeoff::Line;
use crate::units::{Length, UnitSystem};
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};
use std::collections::HashMap;

/// Prices beyond this are a slip of the keyboard.
const DEAREST: i64 = 10_000_000;

/// Who sells.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Supplier {
    /// Its name.
    pub name: String,
    /// What one delivery costs.
    pub carriage: Decimal,
    /// From this sum on it costs nothing; none: always the same.
    pub free_from: Option<Decimal>,
}

/// A price: what one supplier wants for one thing.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Price {
    /// The company's own number of the thing.
    pub number: String,
    /// What the company calls it.
    pub text: String,
    /// The supplier's name.
    pub supplier: String,
    /// For one, stick or coil.
    pub price: Decimal,
    /// Sold in packs of so many.
    pub pack: u32,
    /// At least so many.
    pub minimum: u32,
    /// As of.
    pub dated: Option<Date>,
}

/// All prices of a company.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct PriceBook {
    /// Three letters; empty where there is no price.
    pub currency: String,
    /// Who sells.
    pub suppliers: Vec<Supplier>,
    /// What they want.
    pub prices: Vec<Price>,
    /// Own numbers of parts of takeoffs ([`part_key`]), for all jobs.
    pub numbers: HashMap<String, String>,
}

/// What can't be taken over from a price, in words.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum BookFault {
    /// Below zero.
    #[error("price is below zero")]
    Negative,
    /// Too large to be meant.
    #[error("price is over {DEAREST}. Check the value and decimal point")]
    TooDear,
    /// No number, or one too long.
    #[error("needs an item number of 1 to 64 characters")]
    NoNumber,
    /// No supplier.
    #[error("needs a supplier")]
    NoSupplier,
    /// A pack or minimum of nothing.
    #[error("pack and minimum are whole numbers from 1 to 100000")]
    NoPack,
    /// The same number of the same supplier again.
    #[error("‘{0}’ appears twice for the same supplier")]
    Twice(String),
}

impl Price {
    /// What of it can't be computed with.
    pub fn fault(&self) -> Option<BookFault> {
        if self.number.trim().is_empty() || self.number.chars().count() > 64 {
            return Some(BookFault::NoNumber);
        }
        if self.supplier.trim().is_empty() || self.supplier.chars().count() > 80 {
            return Some(BookFault::NoSupplier);
        }
        if self.price.is_sign_negative() && !self.price.is_zero() {
            return Some(BookFault::Negative);
        }
        if self.price > Decimal::from(DEAREST) {
            return Some(BookFault::TooDear);
        }
        let sound = |n: u32| (1..=100_000).contains(&n);
        (!sound(self.pack) || !sound(self.minimum)).then_some(BookFault::NoPack)
    }

    /// What is bought where so many are wanted: whole packs, at least the minimum.
    ///
    /// # Example
    /// 30 emitters in packs of 25: 50.
    pub fn bought(&self, wanted: Decimal) -> Decimal {
        let least = wanted.max(Decimal::from(self.minimum));
        let pack = Decimal::from(self.pack.max(1));
        (least / pack).ceil() * pack
    }
}

/// A line with one supplier's price.
#[derive(Debug, Clone, PartialEq)]
pub struct Offer<'b> {
    /// The price.
    pub price: &'b Price,
    /// What is bought, whole packs.
    pub bought: Decimal,
    /// What that costs, to the cent.
    pub sum: Decimal,
}

/// The name of a part in a price book: with the length it is sold in, where it has one.
///
/// ```
/// use fenlo_core::pricing::part_key;
/// use fenlo_core::units::Length;
/// assert_eq!(part_key("dripline-0.6-12in", Some(Length::from_ft(500.0))), "dripline-0.6-12in@500ft");
/// assert_eq!(part_key("pe100-sdr11-25mm", Some(Length::from_m(50.0))), "pe100-sdr11-25mm@50m");
/// assert_eq!(part_key("valve-1in", None), "valve-1in");
/// ```
pub fn part_key(part: &str, piece: Option<Length>) -> String {
    let Some(piece) = piece else {
        return part.to_owned();
    };
    let (ft, m) = (piece.ft(), piece.m());
    if (ft - ft.round()).abs() < 1e-4 { format!("{part}@{ft:.0}ft") } else { format!("{part}@{m:.0}m") }
}

/// A stick, coil or spool for people, in the unit that its maker measures it in: `20 ft`, `1,000 ft`, `100 m`.
pub fn piece_for_people(piece: Length) -> String {
    let in_feet = (piece.ft() - piece.ft().round()).abs() < 1e-4;
    piece.show_whole(if in_feet { UnitSystem::Us } else { UnitSystem::Metric })
}

impl PriceBook {
    /// The own number of a part; its key where nobody gave it one.
    pub fn number_of<'b>(&'b self, key: &'b str) -> &'b str {
        self.numbers.get(key).map_or(key, String::as_str)
    }

    /// Every price of a part.
    pub fn prices_of<'b>(&'b self, key: &'b str) -> impl Iterator<Item = &'b Price> + 'b {
        let number = self.number_of(key);
        self.prices.iter().filter(move |p| p.number == number)
    }

    /// Every supplier's offer for a line, in the book's order.
    pub fn offers(&self, line: &Line) -> Vec<Offer<'_>> {
        let key = part_key(&line.part, line.piece);
        let wanted = quantity_of(line);
        let number = self.numbers.get(&key).map_or(key.as_str(), String::as_str);
        self.prices
            .iter()
            .filter(|p| p.number == number)
            .map(|price| {
                let bought = price.bought(wanted);
                Offer { price, bought, sum: super::cents(bought * price.price) }
            })
            .collect()
    }

    /// The least price of one piece of a part.
    pub fn least(&self, part: &str, piece: Length) -> Option<Decimal> {
        let key = part_key(part, Some(piece));
        let number = self.number_of(&key);
        self.prices.iter().filter(|p| p.number == number).map(|p| p.price).min()
    }

    /// The supplier of this name; one without carriage where nothing was said of it.
    pub fn supplier(&self, name: &str) -> Supplier {
        let known = self.suppliers.iter().find(|s| s.name == name);
        known.cloned().unwrap_or_else(|| Supplier {
            name: name.to_owned(),
            carriage: Decimal::ZERO,
            free_from: None,
        })
    }
}

/// A line's quantity as an exact decimal, to the thousandth.
pub(super) fn quantity_of(line: &Line) -> Decimal {
    let thousandths = (line.quantity * 1000.0).round().clamp(0.0, 1e15) as i64;
    Decimal::new(thousandths, 3).normalize()
}

/// A part's key for people where the company has no text for it.
pub(super) fn text_of(line: &Line) -> String {
    match line.piece {
        Some(piece) => format!("{}, {}", line.text(), piece_for_people(piece)),
        None => line.text(),
    }
}

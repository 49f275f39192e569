//! Prices to plan by where the company has no book of its own: typical of the trade, ours, in its own currency's units.

use super::book::{Price, PriceBook};
use rust_decimal::Decimal;
use std::sync::LazyLock;

/// `part,price`, a line each.
const TABLE: &str = include_str!("planning.csv");
/// Who sells what is planned with.
const SUPPLIER: &str = "planning prices";

static BOOK: LazyLock<PriceBook> = LazyLock::new(|| {
    let price = |line: &str| {
        let (part, price) = line.rsplit_once(',')?;
        let price: Decimal = price.parse().ok()?;
        let (number, text, supplier) = (part.to_owned(), part.to_owned(), SUPPLIER.to_owned());
        Some(Price { number, text, supplier, price, pack: 1, minimum: 1, dated: None })
    };
    PriceBook { prices: TABLE.lines().filter_map(price).collect(), ..PriceBook::default() }
});

impl PriceBook {
    /// Planning prices: to choose by, never to quote by.
    pub fn planning() -> &'static Self {
        &BOOK
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_line_of_the_table_is_a_price() {
        let book = PriceBook::planning();
        assert_eq!(book.prices.len(), TABLE.lines().count());
        assert!(book.prices.iter().all(|p| p.fault().is_none() && p.price > Decimal::ZERO));
        assert!(book.prices_of("valve-1in").next().is_some());
    }
}

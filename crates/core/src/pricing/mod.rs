//! What the parts of a job cost, where they are bought for the least, and what the customer pays. All money
//! is exact decimals of one currency; what has no price is named, never counted as nothing.
//!
//! | file | idea |
//! |---|---|
//! | `book` | the company's own price book |
//! | `basket` | the cheapest supplier, and the cheapest split over several, with carriage and packs |
//! | `quote` | materials, labour, overhead, margin, tax |
//! | `first` | alternatives by first cost and over ten years |
//! | `saving` | what one alternative saves against another, and when it is paid back |
//! | `kits` | a bundle under one number against its parts |
//! | `nozzles` | the nozzles that the company keeps for all its jobs |
//! | `planning` | prices to plan by where there is no book |
//! | `stock` | what has come, from suppliers and the company's stock; what is left over |
//! | `change` | what differs between two quotes |
//! | `options` | quotes offered side by side |

mod basket;
mod book;
mod change;
mod first;
mod kits;
mod nozzles;
mod options;
mod planning;
mod quote;
mod saving;
mod stock;
#[cfg(test)]
mod tests;

pub use basket::{Bag, Basket, Baskets, baskets};
pub use book::{BookFault, Offer, Price, PriceBook, Supplier, part_key, piece_for_people};
pub use change::{QuoteChange, changes};
pub use first::{FirstCost, first_cost, wanted_by};
pub use kits::{Kit, KitFault, KitOffer, kit_offers};
pub use nozzles::{HouseNozzles, Parted};
pub use options::{MOST_OPTIONS, Options, OptionsFault, side_by_side};
pub use quote::{Labour, Quote, QuoteLine, QuoteSection, Section, SectionBy, Work, quote};
pub use saving::{Against, Offered, PaidBack, Saving, planned_kind, savings};
pub use stock::{Delivery, Goods, deliveries, to_order};

use rust_decimal::{Decimal, RoundingStrategy};

/// To the cent, halves up.
pub fn cents(sum: Decimal) -> Decimal {
    sum.round_dp_with_strategy(2, RoundingStrategy::MidpointAwayFromZero)
}

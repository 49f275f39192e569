//! One valve with its heads: from the list to a network, and from its solution to figures.

mod assess;
mod build;
mod drawn;
mod lateral;
#[cfg(test)]
pub(crate) mod tests;

pub use assess::{HeadResult, RegulatorResult, WalkStep, ZoneAssessment, ZoneFault, assess_zone};
pub use build::{Head, Step, ZoneModel, at_connection, chain_links, zone_model};
pub use drawn::{Leg, drawn_on, legs};

//! One valve with its heads: from the list to a network, and from its solution to figures.

mod assess;
mod build;
mod lateral;
#[cfg(test)]
mod tests;

pub use assess::{ZoneFault, HeadResult, RegulatorResult, WalkStep, ZoneAssessment, assess_zone};
pub use build::{Head, Step, ZoneModel, chain_links, zone_model};
pub(crate) use build::flow_at_speed;

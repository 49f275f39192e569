//! One valve with its heads: from the plan to a network, and from its solution to figures.
//!
//! | file | idea |
//! |---|---|
//! | `inputs` | all that a zone's figures rest on, as one value: equal inputs, equal figures |
//! | `grow` | a network, grown along the path of the water |
//! | `listed` | laterals from a list: chain, fed in the middle, H; drip rows |
//! | `drawn` | laterals of drawn heads: the shortest straight legs |
//! | `model` | the whole zone as a network |
//! | `figures` | pressures, flows, rates, velocity, read off the solution |
//! | `walk` | every step from the street to the worst head |

mod drawn;
mod figures;
mod grow;
mod inputs;
mod listed;
mod model;
#[cfg(test)]
pub(crate) mod tests;
mod walk;

pub use drawn::{Leg, drawn_on, legs};
pub use figures::{HeadResult, RegulatorPart, RegulatorResult, ZoneAssessment, ZoneFault, assess_zone};
pub use grow::Step;
pub use inputs::{
    Bore, DrawnInput, FittedRegulator, GroupInput, Spot, TubeRun, Watering, ZoneInputs, inputs_of, zone_of,
};
pub use model::{ZoneHead, ZoneModel, zone_model};
pub use walk::{WalkNote, WalkPart, WalkStep};

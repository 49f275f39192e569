//! One valve with its heads: from the plan to a network, and from its solution to figures.
//!
//! | file | idea |
//! |---|---|
//! | `inputs` | all that a zone's figures rest on, as one value: equal inputs, equal figures |
//! | `grow` | a network, grown along the path of the water |
//! | `listed` | laterals from a list: chain, fed in the middle, H; drip rows |
//! | `drawn` | laterals of drawn heads: the shortest straight legs |
//! | `flush` | drip while its flush valve is open |
//! | `grid` | drip as it is laid, every emitter a node |
//! | `bore` | a pipe as friction sees it |
//! | `piped` | main and laterals as their pipes are drawn |
//! | `trunk` | a drawn main laid into a network |
//! | `model` | the whole zone as a network |
//! | `head` | a head with water running |
//! | `figures` | pressures, flows, rates, velocity, read off the solution |
//! | `standing` | what the piping behind the valve must hold |
//! | `cost` | what a zone spends behind the shared chain |
//! | `ask` | a single question about one valve |
//! | `together` | several valves at once on one main |
//! | `walk` | every step from the street to the worst head |

mod ask;
mod bore;
mod cost;
mod drawn;
mod figures;
mod flush;
mod grid;
mod grow;
mod head;
mod inputs;
mod listed;
mod model;
mod piped;
mod standing;
#[cfg(test)]
pub(crate) mod tests;
mod throws;
mod together;
mod trunk;
mod walk;

pub use ask::{inputs_of, zone_of};
pub use bore::{Bore, Spot, TubeRun};
pub use cost::own_cost;
pub use drawn::{Leg, legs};
pub use figures::{
    LegResult, RegulatorPart, RegulatorResult, Spread, ZoneAssessment, ZoneFault, assess_zone,
};
pub use flush::{FLUSHED_FROM_FPS, assess_flushed};
pub use grow::{LaidGrid, Step, ZoneHead};
pub use head::{Flushing, HeadResult, HeadState};
pub use inputs::{DrawnInput, FittedRegulator, GridInput, GroupInput, Stage, Watering, ZoneInputs, drawn_on};
pub use model::{ZoneModel, lateral_volume, pipe_volume, zone_model};
pub use piped::{JointInput, LegInput, MainInput, Pipework, main_reaches};
pub use standing::Standing;
pub use throws::{OnPipe, Open, Throws, throws};
pub use together::{Together, TogetherZone, run_inputs_together, run_together};
pub use walk::{WalkNote, WalkPart, WalkStep};

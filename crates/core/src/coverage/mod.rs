//! The water on the ground: a catch-can grid over an area and all that its heads throw on.
//!
//! | file | idea |
//! |---|---|
//! | `grid` | square cells over a piece of ground, filled by outlines |
//! | `throw` | one head: where its water lands, by profile, arc, pattern and wind |
//! | `ground` | what lies under every cell: the area, what is kept dry, other ground |
//! | `uniformity` | DU, CU and SC of catch data |
//! | `area` | all of it for one area of a plan |
//! | `spacing` | whether heads reach each other, both ways |
//! | `edge` | how near they stand to the edge |
//! | `reach` | what they don't reach |
//! | `rate` | the rate that nozzles apply by themselves |
//! | `expected` | the same with heads as hands set them, again and again: what an audit will find |
//!
//! Volume is conserved: what lands on the area and off it together is the flow of the heads.
//! Not in it: evaporation, drops that bounce or run, water held back by walls.

mod area;
mod edge;
mod expected;
mod grid;
mod ground;
mod rate;
mod reach;
mod spacing;
#[cfg(test)]
mod tests;
mod throw;
mod uniformity;

pub use area::{Coverage, SolvedHeads, Source, Spill, Window, coverage, sources};
pub use edge::{NEAREST_EDGE, OFF_EDGE, edge_point};
pub use expected::{
    Expected, FAULT_BELOW, REPETITIONS, Scatter, Verdict, WHILE_MOVING, aim_of, expected, verdict,
};
pub use grid::Grid;
pub use ground::{Ground, Under, cell_for, ground};
pub use rate::{RATE_STOP, RATE_WATCH, head_to_head, own_rate};
pub(crate) use reach::{CRUMB, DRIP_ONLY, clearance};
pub use reach::{ReachAdvice, Unreached, unreached};
pub use spacing::{Direction, Gap, Reaching, gaps};
pub(crate) use spacing::{NEAREST, least_throws};
pub use throw::{Drift, Pattern, Profile, Throw};
pub use uniformity::{Uniformity, christiansen, lower_quarter, uniformity};

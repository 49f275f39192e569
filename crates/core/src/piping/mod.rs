//! Pipe on the plan: where boxes stand, how mains and laterals run, which trench is shared, which size
//! each leg gets, and how the wire goes.
//!
//! The pipe is part of the plan ([`crate::plan::Piping`]); zones are solved on it ([`crate::zone`]).
//! Here it is proposed, sized, measured and priced.
//!
//! | file | idea |
//! |---|---|
//! | `roads` | cheapest ways round corners and through crossings |
//! | `tree` | the cheapest trench that joins points |
//! | `bound` | what no layout can beat |
//! | `boxes` | where valve boxes stand |
//! | `lateral` | branching laterals, compared by trench and pipe |
//! | `dug` | trenches that are dug already, and what a tree still has to dig |
//! | `shared` | laterals that follow one another's trenches, so that the whole costs least |
//! | `size` | sizes of a tree at least cost |
//! | `looped` | the same where pipe closes loops, with its bound |
//! | `sizes` | sizes of a job's pipes, at solved pressures and flows |
//! | `propose` | routes as edits |
//! | `wire` | strands, lengths, gauge |

mod bound;
mod boxes;
mod dug;
mod lateral;
mod looped;
mod propose;
mod roads;
mod shared;
mod size;
mod sizes;
#[cfg(test)]
mod tests;
mod tree;
mod wire;

pub use bound::least_trench;
pub use boxes::ProposedBox;
pub use lateral::{Shape, branch_against_chain};
pub use looped::{Draw, LoopLeg, Looped};
pub use propose::{RouteFault, Routes, Scope, routes, routes_watched, two_sizes_up};
pub use roads::{Roads, Stop, Way};
pub use size::{Limits, Short, Size, SizeLeg, Sized, least_cost};
pub use sizes::{LoopCost, SizeShort, Sizes, sizes, sizes_watched};
pub use tree::{Tree, TreeEdge, join, meeting_point, square_branch};
pub use wire::{GAUGES, Wire, volts_lost, wire};

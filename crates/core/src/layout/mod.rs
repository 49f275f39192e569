//! Heads for an area, proposed. Deterministic: the same ground gives the same heads, and mirrored
//! ground the mirrored ones, because the work is done in a frame of the area's own.
//!
//! | file | idea |
//! |---|---|
//! | `family` | nozzles that may share a valve: which of them for an arc and a throw |
//! | `frame` | the area turned along its longest edge |
//! | `field` | the ground in that frame: pieces to water, cells, what they want |
//! | `place` | corners first, then edges, then the inside: square, triangular, free |
//! | `strips` | strips and squares where the ground is narrow or square |
//! | `fit` | arcs that stay on the area |
//! | `improve` | local search on the water on the ground |
//! | `price` | what a layout costs over ten years, before it is piped |
//! | `score` | what a layout does, lacks and costs |
//! | `proposal` | heads proposed, or why there are none |
//! | `propose` | candidates made, compared, the best kept |
//! | `advise` | which kind of head suits an area |
//! | `compare` | all kinds side by side |
//! | `apply` | a proposal as one edit |

mod advise;
mod apply;
mod compare;
mod family;
mod field;
mod fit;
mod frame;
mod improve;
mod place;
mod price;
mod proposal;
mod propose;
mod score;
mod search;
mod strips;
#[cfg(test)]
mod tests;
mod trial;

pub use advise::{Advice, AdviceReason, advise};
pub use apply::{even_out, lay_out};
pub use compare::{Alternative, Available, Drip, WeekMinutes, alternatives, each_alternative};
pub use family::Family;
pub(crate) use price::Prices;
pub use price::{DRIP_DU, WATER_PRICE, YEARS, watered_with};
pub use proposal::{LayoutFault, Proposal};
pub use propose::propose;
pub use score::{Score, measure};
pub use trial::Proposed;

use crate::catalogue::Kind;

/// Kinds of head that can be laid out: all that throw.
pub const LAID_OUT: [Kind; 6] =
    [Kind::Spray, Kind::RotatorShort, Kind::Rotator, Kind::RotorShort, Kind::RotorMid, Kind::RotorLarge];

//! The ground: what is to be watered, what must stay dry, where the water is, what grows, how high
//! it lies. Everything is drawn in metres on a flat local plane, `x` to the right of the sheet and
//! `y` up it, exact to a fraction of a millimetre.
//!
//! | file | idea |
//! |---|---|
//! | `point` | points and what can be done to all of them: shift, turn, mirror |
//! | `outline` | closed rings and open lines with straight and arc edges |
//! | `shape` | a ring with holes: area, perimeter, where it is sound |
//! | `things` | what stands on the ground |
//! | `construct` | points and edges from tape lengths: triangulation, chord and rise, corners |
//! | `combine` | split, join, cut out, offset |
//! | `heights` | height anywhere from spot heights |
//! | `check` | faults of a site, located |

mod check;
mod combine;
mod construct;
mod heights;
mod outline;
mod point;
mod shape;
#[cfg(test)]
pub(crate) mod tests;
mod things;

pub use combine::{CombineError, cut, join, offset, split, strip};
pub use construct::{ConstructError, bend_through, chamfer, rectangle, round, triangulate};
pub use heights::height_at;
pub use outline::{Edge, Outline, Path, Vertex};
pub use point::{Motion, Point};
pub use shape::{Shape, ShapeFault};
pub use things::{
    Area, AreaKind, Dry, DryKind, Form, Note, PlaceKind, PlaceMark, Planting, Site, SpotHeight, Thing,
    Underlay, WaterUse, What, Wind,
};

pub(crate) use check::check;
pub(crate) use shape::{inside, to_segment};

/// Two points nearer than this are one: half a millimetre.
pub const SAME: f64 = 0.000_5;
/// Furthest from the origin, metres: no job is larger.
pub const FURTHEST: f64 = 10_000.0;
/// Corners of one ring: bounds the work on every edit.
pub const MOST_CORNERS: usize = 2_000;
/// Things on one job.
pub const MOST_THINGS: usize = 3_000;
/// Corners on one job.
pub const MOST_CORNERS_IN_ALL: usize = 60_000;

//! The ground: what is to be watered, what must stay dry, where the water is, what grows, how high
//! it lies. Everything is drawn in metres on a flat local plane, `x` to the right of the sheet and
//! `y` up it, exact to a fraction of a millimetre.
//!
//! | file | idea |
//! |---|---|
//! | `point` | points and what can be done to all of them: shift, turn, mirror |
//! | `outline` | closed rings and open lines with straight and arc edges |
//! | `shape` | a ring with holes: area, perimeter, where it is sound |
//! | `objects` | what stands on the ground |
//! | `construct` | points and edges from tape lengths: triangulation, chord and rise, corners |
//! | `growing` | plants, sun, soil |
//! | `combine` | split, join, cut out, offset |
//! | `heights` | height anywhere from spot heights |
//! | `widest` | how wide ground is |
//! | `check` | faults of a site, located |

mod check;
mod combine;
mod construct;
mod growing;
mod heights;
mod objects;
mod outline;
mod point;
mod shape;
#[cfg(test)]
pub(crate) mod tests;
mod thirst;
mod widest;

pub use combine::{CombineError, cut, join, offset, split, strip};
pub use construct::{ConstructError, bend_through, chamfer, rectangle, round, triangulate};
pub use growing::{Exposure, Plants, SLOPE_APART_PERCENT, Soil};
pub use heights::height_at;
pub use objects::{
    Area, AreaKind, DryKind, Form, KeepDry, Note, ObjectKind, PlaceKind, PlaceMark, Planting, Site,
    SiteObject, SpotHeight, Underlay, WaterUse, Wind,
};
pub use outline::{Edge, Outline, Path, Vertex};
pub use point::{Motion, Point};
pub use shape::{Shape, ShapeFault};
pub use thirst::{exposure_factor, plant_factor, root_depth};
pub use widest::{widest, widest_to};

pub(crate) use check::check;
pub(crate) use shape::{inside, nearest_on, to_segment};

/// Two points nearer than this are one: half a millimetre.
pub const SAME: f64 = 0.000_5;
/// Furthest from the origin, metres: no job is larger.
pub const FURTHEST: f64 = 10_000.0;
/// Corners of one ring: bounds the work on every edit.
pub const MOST_CORNERS: usize = 2_000;
/// Objects on one job.
pub const MOST_OBJECTS: usize = 3_000;
/// Corners on one job.
pub const MOST_CORNERS_IN_ALL: usize = 60_000;

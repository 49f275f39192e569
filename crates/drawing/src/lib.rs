//! Core values drawn as SVG: used by pages and by print alike.
//!
//! Drawings carry their colours as attributes, so that they also stand alone; every one has a title
//! for those who can't see it, and the page shows the same figures as a table beside it.

pub mod board;
mod chart;
pub mod colour;
mod coverage;
mod curve;
mod glyph;
mod svg;
#[cfg(test)]
mod tests;
mod walk;

pub use chart::{Over, nozzle_curve};
pub use coverage::{coverage_map, layout_picture, scale};
pub use curve::{CurveDrawing, supply_curve};
pub use glyph::{FlowBar, flow_bar, pressure_glyph, valve_badge};
pub use walk::{WalkDrawing, pressure_walk};

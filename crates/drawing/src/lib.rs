//! Core values drawn as SVG: used by pages and by print alike.
//!
//! Drawings carry their colours as attributes, so that they also stand alone; every one has a title
//! for those who can't see it, and the page shows the same figures as a table beside it.

pub mod board;
mod chart;
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

/// Colours of the house: ink on paper, water for water, earth for action.
pub mod colour {
    /// Text.
    pub const INK: &str = "#17292B";
    /// Ground.
    pub const PAPER: &str = "#F6F3EA";
    /// Hairlines.
    pub const LINE: &str = "#D8D2C2";
    /// Words of less weight; 4.5:1 on paper.
    pub const SOFT: &str = "#5C6461";
    /// Water.
    pub const WATER: &str = "#0A6C86";
    /// Water, thin.
    pub const WATER_THIN: &str = "#CFE4E6";
    /// Action.
    pub const EARTH: &str = "#B4491F";
    /// All right.
    pub const OK: &str = "#3E7A3A";
    /// All right, thin.
    pub const OK_THIN: &str = "#DCE8D3";
    /// Stop.
    pub const STOP: &str = "#A3242A";
}

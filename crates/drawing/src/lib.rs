//! Core values drawn as SVG: used by pages and by print alike.
//!
//! Drawings carry their colours as attributes, so that they also stand alone; every one has a title
//! for those who can't see it, and the page shows the same figures as a table beside it. What somebody
//! has typed is escaped here, whoever shows it.
//!
//! ```
//! use fenlo_core::catalogue::Catalogue;
//! use fenlo_core::units::{Pressure, UnitSystem};
//! use fenlo_drawing::{PressureBar, pressure_glyph};
//!
//! // A zone whose heads get 32 to 38 psi, beside the band that a spray is made for.
//! let psi = Pressure::from_psi;
//! let catalogue = Catalogue::builtin();
//! let spray = catalogue.class(catalogue.nozzle("spray-12").expect("built in").kind);
//! let (low, high) = (psi(32.0), psi(38.0));
//! let bar = PressureBar { low, high, band: spray.band(), starved: false, over: false };
//! let svg = pressure_glyph(bar, UnitSystem::Us);
//! assert!(svg.starts_with("<svg") && svg.contains("32.0"));
//! ```
//!
//! | module | what it draws |
//! |---|---|
//! | [`board`] | the site to scale, part by part or as a whole file at 1:100 |
//! | `assembly` | the parts of a zone in the direction of flow |
//! | `measure` | a sheet at its true size to hold tube and thread against |
//! | `walk` | the stair of pressure from the street to the worst head |
//! | `curve` | a supply's pressure by flow |
//! | `chart` | a nozzle over pressure, with the rows of its chart |
//! | `coverage` | the water on the ground, in bands |
//! | `preview` | a drawing of somebody else as it would come in |
//! | `sheet` | plan sheets at a true scale, for paper |
//! | `night` | a night's runs as lanes with the water beneath, a fortnight, a year |
//! | `how` | how each step is measured |
//! | `glyph` | small figures inside a line of a page |
//! | [`colour`] | the colours of the house, once |
#![forbid(unsafe_code)]
#![deny(missing_docs)]

mod assembly;
pub mod board;
mod chart;
pub mod colour;
mod coverage;
mod curve;
mod glyph;
mod how;
mod measure;
mod night;
mod preview;
mod sheet;
mod svg;
#[cfg(test)]
mod tests;
mod walk;

pub use assembly::assembly;
pub use chart::{Over, nozzle_curve};
pub use coverage::{coverage_map, layout_picture, scale};
pub use curve::{CurveDrawing, supply_curve};
pub use glyph::{FlowBar, PressureBar, flow_bar, pressure_glyph, valve_badge};
pub use how::how_drawing;
pub use measure::measure_sheet;
pub use night::{fortnight, night_lanes, year_water};
pub use preview::{PreviewLayer, import_preview, preview_colour};
pub use sheet::{JointLetters, Legend, PlanSheet, Window, legend_sign, plan_file, plan_sheet};
pub use walk::{WalkDrawing, pressure_walk};

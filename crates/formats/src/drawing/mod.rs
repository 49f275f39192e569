//! Drawings in and out: DXF (ASCII) and GeoJSON.
//!
//! A file is read into a [`Drawing`]: layers of outlines, lines, points and texts, with a list of
//! what it held that can't be used. [`import`] then makes things of it, once somebody has said what
//! each layer is.

mod chain;
mod dxf_read;
mod dxf_scan;
mod dxf_write;
mod geojson;
mod heights;
mod import;
mod join;
mod spline;

pub use dxf_read::read_dxf;
pub use dxf_write::write_dxf;
pub use geojson::{read_geojson, write_geojson};
pub use import::{Imported, LayerUse, guess, import};
pub use join::{Joined, joined};

use crate::error::ReadError;
use fenlo_core::plan::LegOf;
use fenlo_core::site::{Path, Point, Shape};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// Largest drawing read, bytes.
pub const MOST_DRAWING: usize = 25_000_000;
/// Layers of one drawing.
pub(crate) const MOST_LAYERS: usize = 500;
/// Pieces of one drawing, with blocks spread out.
pub(crate) const MOST_PIECES: usize = 400_000;
/// Corners of one drawing.
pub(crate) const MOST_POINTS: usize = 1_000_000;
/// Figures further from zero than this are no drawing of a site in any unit.
pub(crate) const FURTHEST: f64 = 1e9;

/// Refuses a file that is larger than any drawing read.
pub(crate) fn bounded(bytes: &[u8]) -> Result<(), ReadError> {
    let mb = |n: usize| n / 1_000_000;
    let (is, most) = (mb(bytes.len()), mb(MOST_DRAWING));
    if bytes.len() > MOST_DRAWING {
        let message = format!("is {is} MB; at most {most} MB are read");
        return Err(ReadError::one("file", message));
    }
    Ok(())
}

/// The layer of a main or lateral in files of ours.
pub(crate) fn pipe_layer(of: &LegOf) -> String {
    match of {
        LegOf::Main(supply) => format!("pipe-main-{supply}"),
        LegOf::Lateral(valve) => format!("pipe-lateral-{valve}"),
    }
}

/// What a file holds, in its own unit.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
pub struct Drawing {
    /// Metres to one unit of the file, where it says.
    pub metres: Option<f64>,
    /// Coordinates may be degrees of longitude and latitude.
    pub maybe_degrees: bool,
    /// By name.
    pub layers: BTreeMap<String, Layer>,
    /// What it holds that can't be used, by its layer, and how often.
    pub unused: BTreeMap<String, usize>,
    /// Lines are loose and rings lie in rings: [`joined`] says what closes.
    #[serde(default)]
    pub loose: bool,
}

/// One layer.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct Layer {
    /// Ground: rings with holes. A name, where the file gives one.
    pub closed: Vec<(Shape, String)>,
    /// Lines that do not close.
    pub open: Vec<Path>,
    /// Circles: centre, radius.
    pub circles: Vec<(Point, f64)>,
    /// Points, with their height where they have one.
    pub points: Vec<(Point, Option<f64>)>,
    /// Words.
    pub texts: Vec<(Point, String)>,
    /// Why it is not shown where it was drawn: `frozen`, `off`, `invisible`; it is left out unless somebody
    /// says otherwise.
    pub hidden: Option<String>,
}

impl Layer {
    /// What is on it, in words.
    pub fn describe(&self) -> String {
        let counts = [
            (self.closed.len(), "outline"),
            (self.open.len(), "line"),
            (self.circles.len(), "circle"),
            (self.points.len(), "point"),
            (self.texts.len(), "text"),
        ];
        let words: Vec<String> = counts
            .iter()
            .filter(|c| c.0 > 0)
            .map(|(n, word)| format!("{n} {word}{}", if *n == 1 { "" } else { "s" }))
            .collect();
        words.join(", ")
    }
    /// Nothing on it.
    pub fn is_empty(&self) -> bool {
        let hidden = self.hidden.clone();
        *self == Self { hidden, ..Self::default() }
    }
    fn places(&self) -> impl Iterator<Item = Point> + '_ {
        let rings = self.closed.iter().flat_map(|(s, _)| s.rings().flat_map(|r| r.0.iter().map(|v| v.at)));
        let lines = self.open.iter().flat_map(|p| p.0.iter().map(|v| v.at));
        rings
            .chain(lines)
            .chain(self.circles.iter().map(|c| c.0))
            .chain(self.points.iter().map(|p| p.0))
            .chain(self.texts.iter().map(|t| t.0))
    }
}

impl Drawing {
    /// Lowest and highest corner of the box round everything, in the file's unit.
    pub fn bounds(&self) -> Option<(Point, Point)> {
        self.layers.values().flat_map(Layer::places).fold(None, |found, p| {
            let (low, high) = found.unwrap_or((p, p));
            Some((Point::new(low.x.min(p.x), low.y.min(p.y)), Point::new(high.x.max(p.x), high.y.max(p.y))))
        })
    }
    /// Notes that so many things of a kind on a layer can't be used.
    pub(crate) fn left_out(&mut self, what: &str, layer: &str, n: usize) {
        let layer: String = layer.chars().filter(|c| !c.is_control()).take(60).collect();
        let what = format!("{what} on ‘{layer}’");
        // A hostile file could name a million kinds.
        if self.unused.len() < 200 || self.unused.contains_key(&what) {
            *self.unused.entry(what).or_default() += n;
        }
    }
    pub(crate) fn unused(&mut self, what: &str) {
        // A hostile file could name a million kinds.
        if self.unused.len() < 200 || self.unused.contains_key(what) {
            *self.unused.entry(what.chars().filter(|c| !c.is_control()).take(60).collect()).or_default() += 1;
        }
    }
}

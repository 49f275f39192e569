//! Drip that is laid by what it waters: its rows, lines and emitters follow from a few choices and the
//! ground, so they follow the ground when that is changed.

use crate::units::{Length, Volume};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// How the drip of a group is laid. Its drawn ‘heads’ are then the inlets where pipe reaches it: one for
/// each part that hangs on a valve of its own.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "as", rename_all = "kebab-case")]
pub enum DripLaying {
    /// Rows of dripline or tape over the whole area; between rows the group's spacing at most.
    Rows(RowLaying),
    /// Emitters at the area's plants, on a line that runs past them.
    Plants(PlantLaying),
}

/// Rows over an area.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct RowLaying {
    /// Between the emitters of a row.
    pub emitter_spacing: Length,
    /// How far the rows keep off the edge, 2 to 4 in as a rule.
    pub edge: Length,
    /// How the rows' ends are joined.
    pub ends: RowEnds,
    /// The way the rows run: degrees counter-clockwise from the right, 0 up to 180. None: along the
    /// contour where the ground falls, else along the longest edge.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub heading: Option<f64>,
    /// Under the ground; zero: on it, under mulch.
    #[serde(default)]
    pub depth: Length,
    /// No row is longer: the ground is cut across the rows into neighbouring lots, as far as there are inlets for
    /// them. None: rows run from edge to edge.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub longest: Option<Length>,
}

/// How the ends of rows are joined.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum RowEnds {
    /// A header at either end: one brings water, the other evens it out and is flushed.
    #[default]
    Headers,
    /// One line snaked over the ground and led back to its start.
    Snake,
    /// A header at one end only, the other ends closed: tape, with a shut-off for each row.
    Closed,
}

/// Emitters at plants.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PlantLaying {
    /// How emitters hang on the line.
    pub joined: EmitterJoin,
    /// Emitters at every plant; none: by its canopy.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub each: Option<u32>,
    /// What the basin about one plant holds.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub basin: Option<Volume>,
    /// Plants that get other emitters than the rest.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub other: Vec<PlantEmitters>,
}

/// What one plant (or row of plants) gets.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PlantEmitters {
    /// Id of the plant on the plan.
    pub plant: String,
    /// Emitters at each; none: by its canopy.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub each: Option<u32>,
    /// Emitter of the catalogue; none: the group's.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub nozzle: Option<String>,
}

/// How an emitter hangs on its line.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum EmitterJoin {
    /// Straight in the tube where it passes the plant; the tube goes round large canopies.
    InTube,
    /// Emitter in the tube, micro tube from it to the plant: the tube carries a trickle.
    #[default]
    AtTube,
    /// Micro tube from the tube, at line pressure, the emitter at its end.
    AtPlant,
    /// Manifolds of six outlets, micro tube from each.
    SixOutlets,
    /// Manifolds of eight outlets.
    EightOutlets,
    /// One emitter at the tube that feeds a ring of emitters in quarter-inch tube about the plant: those in it share what
    /// the first lets through.
    FedRing,
    /// Micro tube with an open end, which floods a basin about the plant.
    OpenEnd,
}

impl EmitterJoin {
    /// Outlets of one manifold; none: no manifold.
    pub fn outlets(self) -> Option<usize> {
        match self {
            Self::SixOutlets => Some(6),
            Self::EightOutlets => Some(8),
            Self::InTube | Self::AtTube | Self::AtPlant | Self::FedRing | Self::OpenEnd => None,
        }
    }
}

impl DripLaying {
    /// Water runs out of open ends: there is no emitter that wants a pressure.
    pub fn floods(&self) -> bool {
        matches!(self, Self::Plants(plants) if plants.joined == EmitterJoin::OpenEnd)
    }
}

impl RowLaying {
    /// Rows as most are: 3 in off the edge, joined by headers, on the surface.
    pub fn new(emitter_spacing: Length) -> Self {
        Self {
            emitter_spacing,
            edge: Length::from_in(3.0),
            ends: RowEnds::Headers,
            heading: None,
            depth: Length::ZERO,
            longest: None,
        }
    }
    /// Under the ground.
    pub fn is_buried(&self) -> bool {
        self.depth > Length::ZERO
    }
}

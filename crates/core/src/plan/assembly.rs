use crate::catalogue::Seal;
use crate::units::{Length, Pressure};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// The parts of a zone from its water to its tube, in the direction of flow.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Assembly {
    /// In the direction of flow; none: valve, filter and regulator one behind the other.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub parts: Vec<AssemblyPart>,
    /// Where it stands.
    #[serde(default)]
    pub stands: AssemblyPlace,
    /// How high its vacuum breaker stands over the ground at the valve.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub height: Option<Length>,
    /// Room that it has, along its parts.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub room: Option<Length>,
    /// Its weight is held by a bracket, a stake or a block.
    #[serde(default)]
    pub supported: bool,
}

/// One part.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct AssemblyPart {
    /// What it is.
    pub is: PartIs,
    /// What a regulator of its own holds.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub set: Option<Pressure>,
    /// Its arrow points against the flow.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub reversed: bool,
    /// How its inlet is sealed, where somebody did otherwise than the ends ask for.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sealed: Option<Seal>,
}

/// What a part of an assembly is.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum PartIs {
    /// The zone's own valve.
    Valve,
    /// The zone's own filter.
    Filter,
    /// The zone's own regulator.
    Regulator,
    /// A part of the catalogue.
    Part(String),
}

/// Where an assembly stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum AssemblyPlace {
    /// In a valve box.
    #[default]
    Box,
    /// Above ground.
    Riser,
    /// At a hose bib.
    Tap,
    /// At a tank.
    Tank,
}

impl AssemblyPart {
    /// A part the right way round, sealed as its ends ask for.
    pub fn new(is: PartIs) -> Self {
        Self { is, set: None, reversed: false, sealed: None }
    }
}

impl Assembly {
    /// Nothing was said of it.
    pub fn is_blank(&self) -> bool {
        *self == Self::default()
    }
}

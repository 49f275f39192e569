use super::Assembly;
use crate::catalogue::{Catalogue, Duty, PipeId};
use crate::units::{Length, Pressure};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// A valve and what is fitted to it. One valve is one station.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Valve {
    /// Stable name in the file.
    pub id: String,
    /// For people; often the area.
    pub name: String,
    /// The point of connection that feeds it.
    pub supply: String,
    /// The valve box on the board that it stands in.
    #[serde(rename = "place", default, skip_serializing_if = "Option::is_none")]
    pub valve_box: Option<String>,
    /// Solenoid valve of the catalogue.
    pub model: String,
    /// Pipe from the end of the shared chain to this valve.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mainline: Option<Mainline>,
    /// Filter of the catalogue behind the valve.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub filter: Option<String>,
    /// Where the zone is regulated.
    #[serde(default)]
    pub regulation: Regulation,
    /// Kept as it is by new splits.
    #[serde(default)]
    pub locked: bool,
    /// Its parts in order, where somebody put them together.
    #[serde(default, skip_serializing_if = "Assembly::is_blank")]
    pub assembly: Assembly,
}

impl Valve {
    /// A 1 in valve with nothing fitted to it, straight at its point of connection.
    pub fn new(id: &str, name: &str, supply: &str) -> Self {
        Self {
            id: id.to_owned(),
            name: name.to_owned(),
            supply: supply.to_owned(),
            valve_box: None,
            model: Catalogue::builtin().valve_of(Duty::Standard).id.clone(),
            mainline: None,
            filter: None,
            regulation: Regulation::None,
            locked: false,
            assembly: Assembly::default(),
        }
    }
}

/// Pipe to one valve.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Mainline {
    /// The pipe.
    pub pipe: PipeId,
    /// Its length.
    pub length: Length,
    /// Height of the valve above the point of connection.
    #[serde(default)]
    pub rise: Length,
}

/// Where a zone is regulated.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "at", rename_all = "lowercase", deny_unknown_fields)]
pub enum Regulation {
    /// Not at all.
    #[default]
    None,
    /// A regulating module on the solenoid valve.
    Valve {
        /// Pressure held behind it.
        set: Pressure,
    },
    /// A preset regulator behind the valve.
    Inline {
        /// Pressure held behind it.
        set: Pressure,
    },
    /// In the body of every head.
    Body {
        /// Pressure held behind it.
        set: Pressure,
    },
}

impl Regulation {
    /// The set point, if any.
    pub fn set(self) -> Option<Pressure> {
        match self {
            Self::None => None,
            Self::Valve { set } | Self::Inline { set } | Self::Body { set } => Some(set),
        }
    }
}

//! What grows, in what soil, how much in the sun.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// Ground steeper than this is not watered with flat ground.
pub const SLOPE_APART_PERCENT: f64 = 7.0;

/// What grows.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default, Serialize, Deserialize, JsonSchema,
)]
#[serde(rename_all = "kebab-case")]
pub enum Plants {
    #[default]
    Lawn,
    Bed,
    Hedge,
    Trees,
    Vegetables,
    Containers,
}

/// Sun and heat.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default, Serialize, Deserialize, JsonSchema,
)]
#[serde(rename_all = "kebab-case")]
pub enum Exposure {
    ReflectedHeat,
    #[default]
    FullSun,
    PartShade,
    Shade,
}

/// Soil by texture.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default, Serialize, Deserialize, JsonSchema,
)]
#[serde(rename_all = "kebab-case")]
pub enum Soil {
    Clay,
    SiltyClay,
    ClayLoam,
    #[default]
    Loam,
    SandyLoam,
    LoamySand,
    Sand,
}

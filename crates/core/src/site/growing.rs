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
    /// Turf.
    #[default]
    Lawn,
    /// Shrubs and flowers.
    Bed,
    /// A hedge row.
    Hedge,
    /// Trees.
    Trees,
    /// Vegetable rows.
    Vegetables,
    /// Pots and boxes.
    Containers,
}

/// Sun and heat.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default, Serialize, Deserialize, JsonSchema,
)]
#[serde(rename_all = "kebab-case")]
pub enum Exposure {
    /// Beside walls or paving that throw heat back.
    ReflectedHeat,
    /// Sun all day.
    #[default]
    FullSun,
    /// Sun for some of the day.
    PartShade,
    /// Hardly any sun.
    Shade,
}

/// Soil by texture.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default, Serialize, Deserialize, JsonSchema,
)]
#[serde(rename_all = "kebab-case")]
pub enum Soil {
    /// Clay.
    Clay,
    /// Silty clay.
    SiltyClay,
    /// Clay loam.
    ClayLoam,
    /// Silt and silt loam: between clay loam and loam.
    SiltLoam,
    /// Loam.
    #[default]
    Loam,
    /// Sandy loam.
    SandyLoam,
    /// Loamy sand.
    LoamySand,
    /// Sand.
    Sand,
}

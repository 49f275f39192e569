//! `fenlo-network/1` and `fenlo-network-result/1`: metric units, named in the keys.

mod read;
mod write;

pub use read::read_network;
pub use write::{write_network, write_result};

use serde::{Deserialize, Serialize};

const FORMAT: &str = "fenlo-network/1";
const RESULT_FORMAT: &str = "fenlo-network-result/1";

#[derive(Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct NetworkFile {
    format: String,
    #[serde(default)]
    name: String,
    sources: Vec<SourceFile>,
    nodes: Vec<NodeFile>,
    links: Vec<LinkFile>,
    #[serde(default)]
    emitters: Vec<EmitterFile>,
}

#[derive(Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct SourceFile {
    node: String,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    static_kpa: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    drop_kpa: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    at_flow_lpm: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    exponent: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    curve: Option<Vec<PressurePoint>>,
}

#[derive(Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct PressurePoint {
    flow_lpm: f64,
    pressure_kpa: f64,
}

#[derive(Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct DropPoint {
    flow_lpm: f64,
    drop_kpa: f64,
}

#[derive(Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct NodeFile {
    id: String,
    #[serde(default)]
    elevation_m: f64,
}

/// One shape for all kinds: which keys belong to which kind is checked by the reader, so that a
/// wrong key is named with its path.
#[derive(Debug, Default, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct LinkFile {
    id: String,
    kind: String,
    from: String,
    to: String,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    length_m: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    diameter_mm: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    roughness_c: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    minor_loss_k: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    open: Option<bool>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    set_kpa: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    drop_kpa: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    at_flow_lpm: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    exponent: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    fixed_drop_kpa: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    curve: Option<Vec<DropPoint>>,
}

#[derive(Debug, Default, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct EmitterFile {
    id: String,
    node: String,
    kind: String,
    flow_lpm: f64,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    at_pressure_kpa: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    exponent: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    regulator_kpa: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    min_kpa: Option<f64>,
}

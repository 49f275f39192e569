//! `fenlo-network/1` and `fenlo-network-result/1`: metric units, named in the keys.

mod read;
mod result;
mod write;

pub use read::read_network;
pub use result::write_result;
pub use write::write_network;

use serde::{Deserialize, Serialize};
use std::borrow::Cow;

const FORMAT: &str = "fenlo-network/1";

/// Names are borrowed from the file's bytes or from the network: a hundred thousand parts name each other
/// twice.
type Name<'a> = Cow<'a, str>;

#[derive(Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct NetworkFile<'a> {
    #[serde(borrow)]
    format: Name<'a>,
    #[serde(borrow, default)]
    name: Name<'a>,
    sources: Vec<SourceFile<'a>>,
    nodes: Vec<NodeFile<'a>>,
    links: Vec<LinkFile<'a>>,
    #[serde(default)]
    emitters: Vec<EmitterFile<'a>>,
}

#[derive(Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct SourceFile<'a> {
    #[serde(borrow)]
    node: Name<'a>,
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
struct NodeFile<'a> {
    #[serde(borrow)]
    id: Name<'a>,
    #[serde(default)]
    elevation_m: f64,
}

/// One shape for all kinds: which keys belong to which kind is checked by the reader, so that a
/// wrong key is named with its path.
#[derive(Debug, Default, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct LinkFile<'a> {
    #[serde(borrow)]
    id: Name<'a>,
    #[serde(borrow)]
    kind: Name<'a>,
    #[serde(borrow)]
    from: Name<'a>,
    #[serde(borrow)]
    to: Name<'a>,
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
struct EmitterFile<'a> {
    #[serde(borrow)]
    id: Name<'a>,
    #[serde(borrow)]
    node: Name<'a>,
    #[serde(borrow)]
    kind: Name<'a>,
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

use crate::catalogue::PipeId;
use crate::units::{Flow, Length, Minutes, Pressure, Volume};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// A point of connection: where the water comes from and what it passes on the way to the valves.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Supply {
    /// Stable name in the file.
    pub id: String,
    /// For people.
    pub name: String,
    /// Street main, well or pump.
    #[serde(default)]
    pub water: WaterSource,
    /// Height of the gauge above the point of connection; negative below it.
    #[serde(default)]
    pub gauge_height: Length,
    /// Part of the chain behind which the readings were taken; none: before the first part.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub read_after: Option<String>,
    /// What was measured.
    #[serde(default)]
    pub readings: Vec<Reading>,
    /// Parts in the order of the flow, from the street to the valves.
    #[serde(default)]
    pub chain: Vec<ChainItem>,
    /// The method of design flow to go by; none: the smallest.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pin: Option<DesignFlowMethod>,
}

impl Supply {
    /// A street connection of which nothing is known yet.
    pub fn new(id: &str, name: &str) -> Self {
        Self {
            id: id.to_owned(),
            name: name.to_owned(),
            water: WaterSource::Street,
            gauge_height: Length::ZERO,
            read_after: None,
            readings: Vec::new(),
            chain: Vec::new(),
            pin: None,
        }
    }
}

/// Where the water comes from.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "from", rename_all = "kebab-case", deny_unknown_fields)]
pub enum WaterSource {
    /// A street main: its pressure is what the readings say.
    #[default]
    Street,
    /// A pump by its curve: three points or more.
    Pump {
        curve: Vec<PumpPoint>,
        #[serde(default)]
        potable: bool,
    },
    /// A well pump with a pressure tank that cycles between two pressures.
    Well {
        cut_in: Pressure,
        cut_out: Pressure,
        pump_flow: Flow,
    },
}

/// A point of a pump's curve.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PumpPoint {
    /// Flow.
    pub flow: Flow,
    /// Pressure at the outlet.
    pub pressure: Pressure,
}

/// One reading.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Reading {
    /// What was read.
    #[serde(rename = "measured")]
    pub kind: ReadingKind,
    /// Date and hour as noted, e.g. `2026-05-03 07:10`.
    #[serde(default)]
    pub when: String,
    /// Gauge, meter, bucket.
    #[serde(default)]
    pub instrument: String,
    /// Where: which bib, which tap.
    #[serde(rename = "place", default)]
    pub tap: String,
}

/// What was read.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "is", rename_all = "lowercase", deny_unknown_fields)]
pub enum ReadingKind {
    /// Pressure with nothing running.
    Static { pressure: Pressure },
    /// Pressure with a known flow running.
    Dynamic { flow: Flow, pressure: Pressure },
    /// Time to fill a bucket.
    Bucket { volume: Volume, time: Minutes },
}

/// A part of the chain with its own name, so that readings can say where they were taken.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ChainItem {
    /// Stable name in the file.
    pub id: String,
    /// What it is.
    pub part: ChainPart,
}

/// What stands between the street and the valves.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "is", rename_all = "kebab-case", deny_unknown_fields)]
pub enum ChainPart {
    /// The service line, or a stretch of main that all valves share.
    Pipe {
        pipe: PipeId,
        length: Length,
        #[serde(default)]
        rise: Length,
    },
    /// A displacement meter by its size.
    Meter { size: String },
    /// A backflow device, isolation valve or filter of the catalogue.
    Device { model: String },
    /// A reducing valve for the whole system.
    Regulator { set: Pressure },
}

/// How the design flow is found.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum DesignFlowMethod {
    /// Three rules for meter and service line; the least counts.
    MeterAndService,
    /// The flow at which what the neediest zone wants still arrives.
    WorkingPressure,
    /// What the bucket took, as a lower bound.
    TimedBucket,
    /// What a pump or well gives.
    Pump,
}

use crate::catalogue::{Kind, PressureBand};
use crate::plan::HeadRef;
use crate::units::{Flow, Pressure, Rate, Speed};

/// A head with water running.
#[derive(Debug, Clone, PartialEq)]
pub struct HeadResult {
    /// Which.
    pub head: HeadRef,
    /// Its kind.
    pub kind: Kind,
    /// Degrees.
    pub arc: u16,
    /// Pressure at its inlet.
    pub inlet: Pressure,
    /// Pressure at its nozzle (lowest emitter of a drip row).
    pub nozzle: Pressure,
    /// The highest at an emitter of drip; else as at its nozzle.
    pub highest: Pressure,
    /// What it gives.
    pub flow: Flow,
    /// What it would give at nominal pressure.
    pub nominal_flow: Flow,
    /// Exponent of its flow over pressure, as solved with; 0 for pressure-compensating.
    pub exponent: f64,
    /// What its class is made for.
    pub band: PressureBand,
    /// Depth it applies over the area it is to water.
    pub rate: Rate,
}

/// Drip with its flush valve open.
#[derive(Debug, Clone, PartialEq)]
pub struct Flushing {
    /// Its inlet.
    pub head: HeadRef,
    /// The slowest at the row ends (or at the end of the line).
    pub slowest: Speed,
    /// What runs out of the flush valve.
    pub out: Flow,
    /// Taken from the supply meanwhile.
    pub taken: Flow,
    /// At the inlet meanwhile.
    pub inlet: Pressure,
}

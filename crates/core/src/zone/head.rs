use crate::catalogue::{Kind, PressureBand};
use crate::plan::HeadRef;
use crate::units::{Flow, Pressure, Rate, Speed};

/// How a head works with the pressure that it gets.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum HeadState {
    /// Under the least of its band.
    Starved,
    /// As it should.
    Works,
    /// Over the most of its band.
    Over,
}

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
    /// Open ends that flood a basin want no pressure: they never starve.
    pub floods: bool,
    /// Depth it applies over the area it is to water.
    pub rate: Rate,
}

impl HeadState {
    /// Of a head that gets so much at its nozzle. Drip is not judged by the most of its band but by what its
    /// tubing bears.
    pub fn of(kind: Kind, band: PressureBand, nozzle: Pressure) -> Self {
        if !nozzle.reaches(band.least) {
            Self::Starved
        } else if !kind.is_drip() && nozzle.exceeds(band.most) {
            Self::Over
        } else {
            Self::Works
        }
    }
}

impl HeadResult {
    /// How it works.
    pub fn state(&self) -> HeadState {
        match HeadState::of(self.kind, self.band, self.nozzle) {
            HeadState::Starved if self.floods => HeadState::Works,
            state => state,
        }
    }
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

use super::{CurveFault, SupplyCurve, supply_curve};
use crate::chain::Chain;
use crate::job::Job;
use crate::plan::Supply;
use crate::units::{Flow, Pressure};

/// A point of connection: what its readings say, and what the water passes on the way to its
/// valves.
#[derive(Debug, Clone, PartialEq)]
pub struct SupplyPoint {
    /// Pressure by flow at the place of the readings.
    pub curve: SupplyCurve,
    /// The parts behind that place.
    pub chain: Chain,
}

impl SupplyPoint {
    /// Fits the curve and lines up the chain.
    ///
    /// # Errors
    /// The readings make no curve.
    pub fn of(job: &Job, supply: &Supply) -> Result<Self, CurveFault> {
        Ok(Self { curve: supply_curve(supply)?, chain: Chain::of(job, supply) })
    }

    /// Pressure at the end of the chain, where the valves hang, at a flow.
    pub fn at_connection(&self, flow: Flow) -> Pressure {
        self.chain.pressure_after(self.curve.pressure_at(flow), flow)
    }

    /// The most that may stand there with nothing running: the highest static reading, or the pump's
    /// cut-out, less the height of the parts; a system regulator holds then too.
    pub fn standing(&self) -> Pressure {
        self.chain.standing_after(self.curve.highest)
    }
}

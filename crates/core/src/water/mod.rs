//! What the supply gives: readings to supply curve, chain of devices, design flow by school.

mod curve;
mod design_flow;
#[cfg(test)]
mod tests;

pub use curve::{CurveFault, SupplyCurve, supply_curve};
pub use design_flow::{DesignFlow, SchoolResult, Want, design_flow};

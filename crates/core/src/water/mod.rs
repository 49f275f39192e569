//! What the supply gives: readings to supply curve, chain of parts, design flow by method.
//!
//! | file | idea |
//! |---|---|
//! | `visit` | which static reading a running one belongs to |
//! | `curve` | pressure by flow at the place of the readings |
//! | `point` | a point of connection: its curve and its chain, made once for all its valves |
//! | `demand` | what a zone wants there |
//! | `design_flow` | how much may run, by every method |
//! | `velocity` | how fast it runs in the pipes that all valves share |

mod curve;
mod demand;
mod design_flow;
mod point;
#[cfg(test)]
mod tests;
mod velocity;
mod visit;

pub use curve::{CurveFault, CurveFrom, SupplyCurve, supply_curve};
pub use demand::{Aim, DemandOf, Losses, OwnCost, PressureDemand, demand_of_group, demands};
pub use design_flow::{
    Allowance, DesignFlow, FlowRule, MethodResult, MethodSays, ZoneFlow, design_flow, most_for,
};
pub use point::SupplyPoint;
pub use velocity::{SharedVelocity, shared_velocities};
pub use visit::{FlowTest, flow_tests};

//! What is said to a controller and what it says: docs/CONTROLLER.md.

use serde::{Deserialize, Serialize};

/// What is wrong in the field.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum FaultKind {
    /// The valve does not close: it runs all night.
    StuckOpen,
    /// A lateral is broken near its valve: a hole of 10 gpm at 30 psi.
    BrokenLateral,
    /// Dirt in the filter, or in the valve where there is none: 10 psi more at 5 gpm.
    CloggedFilter,
}

/// A fault at a valve.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Fault {
    /// Which.
    pub valve: String,
    /// What.
    pub is: FaultKind,
}

/// One run of a programme.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Run {
    /// Which valve opens.
    pub valve: String,
    /// Minutes after the programme's start.
    pub start: u32,
    /// For so long.
    pub minutes: u32,
}

/// What is keyed in.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Programme {
    /// Always `fenlo-programme/1`.
    pub format: String,
    /// In any order.
    pub runs: Vec<Run>,
}

/// Name of the programme's format.
pub const PROGRAMME: &str = "fenlo-programme/1";
/// Name of the log's format.
pub const LOG: &str = "fenlo-log/1";

/// What the sensor read from one minute to another.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Step {
    /// Minutes after the start.
    pub from: u32,
    /// To.
    pub to: u32,
    /// Valves that the controller held open.
    pub open: Vec<String>,
    /// Behind the meter, L/min; none where nothing balances.
    pub flow_lpm: Option<f64>,
    /// At the end of the shared chain, kPa.
    pub pressure_kpa: Option<f64>,
}

/// What the sensor read in a night.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Log {
    /// Always `fenlo-log/1`.
    pub format: String,
    /// In order, without gaps.
    pub steps: Vec<Step>,
}

/// Faults that a simulated controller is to have.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Faults {
    /// All of them.
    pub faults: Vec<Fault>,
}

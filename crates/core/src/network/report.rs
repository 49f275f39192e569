use super::Network;
use crate::units::{Flow, Pressure, Speed};

/// What became of a one-way link.
#[derive(Debug, Clone, Copy, PartialEq, Eq, serde::Serialize, serde::Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum LinkState {
    /// Water passes; a regulator passes what comes less its own loss.
    Open,
    /// A regulator holds its set point.
    Active,
    /// Nothing passes: shut, or the pressure behind is higher.
    Closed,
}

/// The answer for one link.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LinkResult {
    /// Positive from its `from` to its `to`.
    pub flow: Flow,
    /// Pressure spent in it, without the height: positive along the flow.
    pub drop: Pressure,
    /// Its state.
    pub state: LinkState,
    /// Mean velocity, pipes only.
    pub velocity: Option<Speed>,
}

/// The answer for one emitter.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct EmitterResult {
    /// What it gives.
    pub flow: Flow,
    /// Pressure at its node.
    pub inlet: Pressure,
    /// Pressure at the nozzle, behind a regulator in the body.
    pub nozzle: Pressure,
}

/// How well the answer satisfies the equations, computed from the answer itself.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Residual {
    /// Largest imbalance at any node.
    pub mass: Flow,
    /// Largest error in any part's pressure relation.
    pub energy: Pressure,
}

/// The state of a network: what the solver returns. Vectors run as the network's own.
#[derive(Debug, Clone, PartialEq)]
pub struct Solution {
    /// Newton steps taken.
    pub iterations: usize,
    /// Gauge pressure at every node; zero where cut off.
    pub pressures: Vec<Pressure>,
    /// True where no source reaches the node.
    pub cut_off: Vec<bool>,
    /// By link.
    pub links: Vec<LinkResult>,
    /// By emitter.
    pub emitters: Vec<EmitterResult>,
    /// Flow out of each source.
    pub sources: Vec<Flow>,
    /// The check.
    pub residual: Residual,
}

impl Solution {
    /// Flow out of all sources.
    pub fn total_flow(&self) -> Flow {
        self.sources.iter().copied().sum()
    }

    /// The answer for the link of this name.
    pub fn link<'a>(&'a self, network: &Network, id: &str) -> Option<&'a LinkResult> {
        network.links.iter().position(|l| l.id == id).map(|i| &self.links[i])
    }

    /// The pressure at the node of this name.
    pub fn pressure_at(&self, network: &Network, id: &str) -> Option<Pressure> {
        network.nodes.iter().position(|n| n.id == id).map(|i| self.pressures[i])
    }
}

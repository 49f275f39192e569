use super::Curve;
use crate::units::{Flow, Length, Pressure};

/// A pressurised network. Links, sources and emitters name nodes by their index.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Network {
    /// Free text.
    pub name: String,
    /// Where water comes in.
    pub sources: Vec<Source>,
    /// Junctions.
    pub nodes: Vec<Node>,
    /// Pipes, devices, regulators.
    pub links: Vec<Link>,
    /// Heads, drippers.
    pub emitters: Vec<Emitter>,
}

/// A junction at a height.
#[derive(Debug, Clone, PartialEq)]
pub struct Node {
    /// Unique name.
    pub id: String,
    /// Height over any one datum.
    pub elevation: Length,
}

/// Where water comes in. Water never flows back into a source (there is a check in every one).
#[derive(Debug, Clone, PartialEq)]
pub struct Source {
    /// Index of its node.
    pub node: usize,
    /// Its pressure by flow.
    pub law: SourceLaw,
}

/// The pressure of a source by the flow taken from it.
#[derive(Debug, Clone, PartialEq)]
pub enum SourceLaw {
    /// p = static - drop * (q / at_flow)^exponent; a drop of zero is a fixed pressure.
    Measured {
        /// Pressure without flow.
        static_pressure: Pressure,
        /// Lost at `at_flow`.
        drop: Pressure,
        /// The flow of that loss.
        at_flow: Flow,
        /// Exponent of the flow, or of the pressure at an emitter.
        exponent: f64,
    },
    /// A pump: kPa over L/min, falling.
    Curve(Curve),
}

/// What joins two nodes.
#[derive(Debug, Clone, PartialEq)]
pub struct Link {
    /// Unique name.
    pub id: String,
    /// Index of the upstream node (of the first node, for a pipe).
    pub from: usize,
    /// Index of the downstream node.
    pub to: usize,
    /// What it is.
    pub kind: LinkKind,
}

/// The kinds of link.
#[derive(Debug, Clone, PartialEq)]
pub enum LinkKind {
    /// Either direction; friction by Hazen-Williams.
    Pipe {
        /// Its length.
        length: Length,
        /// Inside diameter.
        inside: Length,
        /// Hazen-Williams C.
        roughness_c: f64,
        /// K of the fittings on it: loss K v2/2g.
        minor_loss_k: f64,
        /// False: shut.
        open: bool,
    },
    /// Valve, meter, filter, backflow assembly: one way.
    Device(Loss),
    /// Holds its outlet at the set point while its inlet allows; one way.
    Regulator {
        /// Pressure held behind it.
        set: Pressure,
        /// Its own loss when it is wide open.
        loss: Loss,
    },
}

/// What a device costs at a flow.
#[derive(Debug, Clone, PartialEq)]
pub enum Loss {
    /// fixed + drop * (q / at_flow)^exponent.
    Power {
        /// Lost at any flow.
        fixed: Pressure,
        /// Lost at `at_flow`.
        drop: Pressure,
        /// The flow of that loss.
        at_flow: Flow,
        /// Exponent of the flow, or of the pressure at an emitter.
        exponent: f64,
    },
    /// kPa over L/min, rising.
    Curve(Curve),
}

/// A place where water leaves the network.
#[derive(Debug, Clone, PartialEq)]
pub struct Emitter {
    /// Unique name.
    pub id: String,
    /// Index of its node.
    pub node: usize,
    /// How much it gives.
    pub emission: Emission,
}

/// How much an emitter gives at a pressure.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Emission {
    /// q = flow * (p / at_pressure)^exponent, with p held at most at `regulator`.
    Orifice {
        /// Given at `at_pressure`, or whatever the pressure.
        flow: Flow,
        /// The pressure of that flow.
        at_pressure: Pressure,
        /// Exponent of the flow, or of the pressure at an emitter.
        exponent: f64,
        /// Held by the body, if it regulates.
        regulator: Option<Pressure>,
    },
    /// `flow` from `min` up, flow * sqrt(p / min) below.
    Compensating {
        /// Given at `at_pressure`, or whatever the pressure.
        flow: Flow,
        /// Pressure from which the flow is held.
        min: Pressure,
    },
}

impl Emission {
    /// The flow at an inlet pressure; zero at zero and below.
    pub fn flow_at(&self, inlet: Pressure) -> Flow {
        let inlet = inlet.max(Pressure::ZERO);
        match *self {
            Self::Orifice { flow, at_pressure, exponent, regulator } => {
                flow * (regulator.map_or(inlet, |r| inlet.min(r)) / at_pressure).powf(exponent)
            }
            Self::Compensating { flow, min } => flow * (inlet / min).min(1.0).sqrt(),
        }
    }

    /// The pressure at the nozzle itself, behind a regulator in the body.
    pub fn nozzle_pressure(&self, inlet: Pressure) -> Pressure {
        match self {
            Self::Orifice { regulator: Some(set), .. } => inlet.min(*set),
            _ => inlet,
        }
    }
}

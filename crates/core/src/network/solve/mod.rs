//! Newton's method on heads and flows.
//!
//! Every part is a monotone relation h(q) between the flow through it and the energy it costs.
//! One step linearises all of them at the present flows and solves one sparse symmetric system for
//! the heads; the new flows follow and satisfy the mass balance of the step exactly.
//!
//! Simplifications against a full set of unknowns, with their cost:
//! - An *active* regulator pins its outlet; what it passes is known only after the step and is
//!   taken from its inlet one step late. Costs two or three steps for each regulator in a row.
//! - One-way parts and sources close when flow would reverse and open again when pressure allows,
//!   decided between steps.
//!
//! # Source
//! Todini, E. and Pilati, S. (1988), "A gradient algorithm for the analysis of pipe networks",
//! in: Computer Applications in Water Supply, vol. 1.

mod check;
mod newton;
mod outcome;
mod regulators;
mod start;

use super::law::{EmitterLaw, Law, nominal_total};
use super::matrix::System;
use super::report::{EmitterResult, LinkResult, LinkState, Residual, Solution};
use super::{LinkKind, Network};
use crate::units::{Flow, KPA_PER_M, Pressure, Speed};
use check::{check_figures, reached};

/// When to stop.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Params {
    /// Steps after which the solver gives up.
    pub max_iterations: usize,
    /// Largest error wanted in any part's pressure relation.
    pub energy: Pressure,
    /// Largest imbalance wanted at any node, as a share of the total flow.
    pub mass_share: f64,
}

impl Default for Params {
    fn default() -> Self {
        Self {
            max_iterations: 200,
            energy: Pressure::from_kpa(1e-8),
            mass_share: 1e-8,
        }
    }
}

/// Why a network has no answer.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum SolveError {
    /// Nothing feeds the network.
    #[error("the network has no source: nothing can flow")]
    NoSource,
    /// A figure is not finite, zero where it divides, or names a node that does not exist.
    #[error("{part} has a figure that can't be computed with")]
    BadFigure {
        /// The part, by its id.
        part: String,
    },
    /// The method did not settle.
    #[error(
        "no balance found after {iterations} steps; the worst part is {worst} (off by {energy_kpa:.3} kPa, \
            {mass_lpm:.4} L/min)"
    )]
    NotConverged {
        /// Steps taken.
        iterations: usize,
        /// The part that is furthest off, by its id.
        worst: String,
        /// Heads that do not add up there, kPa.
        energy_kpa: f64,
        /// Flow that does not balance, L/min.
        mass_lpm: f64,
    },
}

/// Flow (L/min) below which a reversal is rounding, not a reversal.
const REVERSAL: f64 = 1e-6;
/// Imbalance, L/min, that is rounding however small the network: a ten-thousandth of one dripper.
const LEAST_MASS: f64 = 1e-6;
/// Energy error that is rounding on the scale of what is wanted (0.05 kPa).
const ROUNDED_ENERGY: Pressure = Pressure::from_kpa(1e-5);
/// Velocity at which a looped network is first taken as straight laws.
const EVERYDAY: Speed = Speed::from_mps(0.2);
/// Conductance of a closed part, L/min per kPa: keeps the system regular, passes nothing.
const CLOSED: f64 = 1e-9;

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum EmitterMode {
    /// On its power law.
    Power,
    /// On the flat part: compensating, or held by its body regulator.
    Limited,
    /// On the straight line near zero.
    Low,
    /// No pressure.
    Off,
}

/// Solves with the default tolerances.
///
/// # Errors
/// See [`SolveError`].
///
/// # Example
/// ```
/// use fenlo_core::network::{Emission, Emitter, Network, Node, Source, SourceLaw, solve};
/// use fenlo_core::units::{Flow, Length, Pressure};
/// let network = Network {
///     nodes: vec![Node { id: "head".into(), elevation: Length::ZERO }],
///     sources: vec![Source { node: 0, law: SourceLaw::Measured {
///         static_pressure: Pressure::from_psi(30.0), drop: Pressure::ZERO, at_flow: Flow::from_gpm(1.0), exponent: 2.0 } }],
///     emitters: vec![Emitter { id: "spray".into(), node: 0, emission: Emission::Orifice {
///         flow: Flow::from_gpm(2.0), at_pressure: Pressure::from_psi(30.0), exponent: 0.5, regulator: None } }],
///     ..Network::default()
/// };
/// assert!((solve(&network)?.total_flow().gpm() - 2.0).abs() < 1e-6);
/// # Ok::<(), fenlo_core::network::SolveError>(())
/// ```
pub fn solve(network: &Network) -> Result<Solution, SolveError> {
    solve_with(network, Params::default())
}

/// Solves with given tolerances: see [`solve`] for the method and an example. Tolerances over zero; the
/// number of steps bounds the work.
///
/// # Source
/// Todini and Pilati (1988).
///
/// # Errors
/// See [`SolveError`].
pub fn solve_with(network: &Network, params: Params) -> Result<Solution, SolveError> {
    Solver::new(network)?.run(params)
}

/// A relation with its state: flow, cost and slope at that flow.
struct Part {
    law: Law,
    q: f64,
    h: f64,
    slope: f64,
    state: LinkState,
    flips: u32,
}

impl Part {
    fn refresh(&mut self) {
        (self.h, self.slope) = self.law.at(self.q);
    }
    /// The linearised flow is `c + y * dH`.
    fn line(&self) -> (f64, f64) {
        if self.state == LinkState::Closed {
            return (0.0, CLOSED);
        }
        let y = 1.0 / self.slope;
        (self.q - self.h * y, y)
    }
    fn switch(&mut self, to: LinkState) -> bool {
        // A part that can't make up its mind stays where it is: the residual tells.
        if self.state == to || self.flips > 30 {
            return false;
        }
        self.state = to;
        self.flips += 1;
        true
    }
}

struct EmitterState {
    law: EmitterLaw,
    mode: EmitterMode,
    q: f64,
}

struct Solver<'a> {
    network: &'a Network,
    height: Vec<f64>,
    head: Vec<f64>,
    live: Vec<bool>,
    /// Place of a live node in the system.
    unknown: Vec<usize>,
    links: Vec<Part>,
    slots: Vec<usize>,
    set: Vec<Option<f64>>,
    sources: Vec<(f64, Part)>,
    emitters: Vec<EmitterState>,
    pinned: Vec<Option<usize>>,
    system: Option<System>,
    scale: f64,
}

impl<'a> Solver<'a> {
    fn new(network: &'a Network) -> Result<Self, SolveError> {
        if network.sources.is_empty() || network.nodes.is_empty() {
            return Err(SolveError::NoSource);
        }
        check_figures(network)?;
        let live = reached(network);
        let height: Vec<f64> = network
            .nodes
            .iter()
            .map(|n| n.elevation.m() * KPA_PER_M)
            .collect();
        let mut unknown = vec![usize::MAX; network.nodes.len()];
        let mut n = 0;
        for (i, _) in live.iter().enumerate().filter(|(_, live)| **live) {
            unknown[i] = n;
            n += 1;
        }
        let runs = |l: &super::Link| live[l.from] && live[l.to];
        let pairs: Vec<(usize, usize)> = network
            .links
            .iter()
            .map(|l| {
                if runs(l) {
                    (unknown[l.from], unknown[l.to])
                } else {
                    (0, 0)
                }
            })
            .collect();
        let (system, slots) = System::new(n, &pairs).ok_or_else(|| SolveError::BadFigure {
            part: "the network".into(),
        })?;
        let part = |law, state| Part {
            law,
            q: 0.0,
            h: 0.0,
            slope: 1.0,
            state,
            flips: 0,
        };
        let links = network
            .links
            .iter()
            .map(|l| {
                let shut = matches!(l.kind, LinkKind::Pipe { open: false, .. }) || !runs(l) || l.from == l.to;
                part(
                    Law::of_link(&l.kind),
                    if shut { LinkState::Closed } else { LinkState::Open },
                )
            })
            .collect();
        let set = network
            .links
            .iter()
            .map(|l| match l.kind {
                LinkKind::Regulator { set, .. } => Some(set.kpa() + height[l.to]),
                _ => None,
            })
            .collect();
        let sources = network
            .sources
            .iter()
            .map(|s| {
                let (shut_off, law) = Law::of_source(&s.law);
                (shut_off + height[s.node], part(law, LinkState::Open))
            })
            .collect();
        let emitters = network
            .emitters
            .iter()
            .map(|e| {
                let law = EmitterLaw::of(&e.emission);
                EmitterState {
                    law,
                    mode: EmitterMode::Power,
                    q: if live[e.node] { law.nominal() } else { 0.0 },
                }
            })
            .collect();
        let scale = nominal_total(network);
        let mut solver = Self {
            network,
            live,
            unknown,
            links,
            slots,
            set,
            sources,
            emitters,
            scale,
            head: height.clone(),
            pinned: vec![None; network.nodes.len()],
            height,
            system: Some(system),
        };
        solver.start_flows();
        Ok(solver)
    }

    fn run(mut self, params: Params) -> Result<Solution, SolveError> {
        let mut best = f64::INFINITY;
        let mut relax = 1.0;
        let mut since_best = 0;
        for iteration in 1..=params.max_iterations {
            self.step(relax)?;
            let (residual, worst) = self.residual();
            // States are judged on flows that have nearly settled: halfway there, a regulator's
            // inlet may look starved only because what it passes is a step late.
            let quiet = residual.energy.kpa() < 0.5 && residual.mass.lpm() < 0.01 * self.scale.max(0.1);
            let switched = self.switch_states(iteration, quiet || iteration % 10 == 0);
            let wanted_mass = (params.mass_share * self.scale).max(LEAST_MASS);
            let settled = !switched && residual.energy <= params.energy && residual.mass.lpm() <= wanted_mass;
            if settled {
                return Ok(self.report(iteration, residual));
            }
            let error = residual.energy.kpa() + residual.mass.lpm();
            // Very wide pipes turn the last bits of a head into flow: when steps no longer improve
            // an answer that is good a hundred times over, rounding is all that is left.
            since_best = if error < best { 0 } else { since_best + 1 };
            let good = residual.energy <= ROUNDED_ENERGY
                && residual.mass.lpm() <= (wanted_mass * 100.0).min(1e-6 * self.scale.max(10.0));
            if !switched && good && since_best >= 3 {
                return Ok(self.report(iteration, residual));
            }
            // Full steps converge quadratically; only a wandering iteration is shortened.
            relax = if iteration > 20 && error > best * 0.9 {
                0.6
            } else {
                1.0
            };
            best = best.min(error);
            if iteration == params.max_iterations || !error.is_finite() {
                return Err(SolveError::NotConverged {
                    iterations: iteration,
                    worst,
                    energy_kpa: residual.energy.kpa(),
                    mass_lpm: residual.mass.lpm(),
                });
            }
        }
        Err(SolveError::NotConverged {
            iterations: 0,
            worst: "none".into(),
            energy_kpa: 0.0,
            mass_lpm: 0.0,
        })
    }
}

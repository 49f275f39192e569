//! Newton's method on heads and flows.
//!
//! Every part is a monotone relation h(q) between the flow through it and the energy it costs.
//! One step linearises all of them at the present flows and solves one sparse symmetric system for
//! the heads; the new flows follow and satisfy the mass balance of the step exactly. Trees are
//! eliminated from their leaves (`forest`); only loops go to the sparse system.
//!
//! Simplifications against a full set of unknowns, with their cost:
//! - An *active* regulator pins its outlet. In a tree what it passes is known while the step is worked
//!   out; in a loop only after it, and is taken from its inlet one step late, which costs two or three
//!   steps for each regulator in a row.
//! - One-way parts and sources close when flow would reverse and open again when pressure allows,
//!   decided between steps.
//!
//! # Source
//! Todini, E. and Pilati, S. (1988), "A gradient algorithm for the analysis of pipe networks",
//! in: Computer Applications in Water Supply, vol. 1.

mod check;
mod emitters;
mod forest;
mod newton;
mod outcome;
mod regulators;
mod start;

use super::law::{Bores, EmitterLaw, LEAST_SLOPE, Law};
use super::matrix::System;
use super::report::{EmitterResult, LinkResult, LinkState, Residual, Solution};
use super::{Emission, Link, LinkKind, Network};
use crate::units::{Flow, KPA_PER_M, Pressure, Speed};
use check::{emitters_of, sources_of, ways_of};
use emitters::{EmitterLaws, EmitterState};
use forest::{Hung, NOWHERE, Order, Way};
use newton::Energy;
use regulators::held_by;

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
        Self { max_iterations: 200, energy: Pressure::from_kpa(1e-8), mass_share: 1e-8 }
    }
}

/// Why a network has no answer.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum SolveError {
    /// Nothing feeds the network.
    #[error("the network has no source")]
    NoSource,
    /// A figure is not finite, zero where it divides, or names a node that does not exist.
    #[error("{part} has an unusable value")]
    BadFigure {
        /// The part, by its id.
        part: String,
    },
    /// The method did not settle.
    #[error(
        "no solution after {iterations} iterations; largest error at {worst} ({energy_kpa:.3} kPa, \
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
    Solver::new(network, true)?.run(params)
}

/// Solves all of a network as one sparse system, trees too: what the elimination is held against.
#[cfg(test)]
pub(crate) fn solve_unpeeled(network: &Network) -> Result<Solution, SolveError> {
    Solver::new(network, false)?.run(Params::default())
}

/// A relation with its state: flow, cost and slope at that flow.
struct Part<'a> {
    law: Law<'a>,
    q: f64,
    h: f64,
    slope: f64,
    state: LinkState,
    flips: u32,
}

impl<'a> Part<'a> {
    fn new(law: Law<'a>) -> Self {
        Self { law, q: 0.0, h: 0.0, slope: 1.0, state: LinkState::Open, flips: 0 }
    }
    fn refresh(&mut self) {
        (self.h, self.slope) = self.law.at(self.q);
    }
    /// Takes a flow `relax` of the way to `q`.
    fn go_to(&mut self, q: f64, relax: f64) {
        let from = self.q;
        self.q += relax * (q - from);
        (self.h, self.slope) = self.law.at_from(self.q, from, self.slope);
    }
    /// The linearised drop at a flow `Q` is `slope * Q - excess`.
    fn fall(&self) -> (f64, f64) {
        match self.state {
            LinkState::Closed => (1.0 / CLOSED, 0.0),
            _ => (self.slope, self.q * self.slope - self.h),
        }
    }
    /// The linearised flow is `c + y * dH`.
    fn line(&self) -> (f64, f64) {
        if self.state == LinkState::Closed {
            return (0.0, CLOSED);
        }
        let y = match self.law {
            Law::Pipe { .. } => 1.0 / self.slope,
            _ => 1.0 / self.slope.max(LEAST_SLOPE),
        };
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

/// How far the flows are from an answer.
#[derive(Clone, Copy)]
struct LeftOver {
    energy: Energy,
    /// Of flow, L/min, at nodes and emitters.
    mass: f64,
}

/// A link that can shut of itself.
struct OneWay {
    link: usize,
    /// Head that it holds, if it regulates; infinite for what holds none.
    set: f64,
}

impl OneWay {
    fn regulates(&self) -> bool {
        self.set.is_finite()
    }
}

/// All by places in [`Order`].
struct Solver<'a> {
    network: &'a Network,
    order: Order,
    height: Vec<f64>,
    head: Vec<f64>,
    /// The step's equations, by node.
    diagonal: Vec<f64>,
    rhs: Vec<f64>,
    hung: Vec<Hung>,
    links: Vec<Part<'a>>,
    /// Ends of the core's links: those of what hangs are its own node and its parent.
    round: Vec<(u32, u32)>,
    /// By link.
    one_way: Vec<OneWay>,
    /// Node, head with nothing running, and fall.
    sources: Vec<(usize, f64, Part<'a>)>,
    emitters: Vec<EmitterState>,
    given: EmitterLaws,
    /// Regulators that hold nodes of the core.
    pinned: Vec<Option<usize>>,
    core: Option<Core>,
    /// What a root that one source feeds takes by the step.
    root_takes: f64,
    scale: f64,
    left_over: LeftOver,
}

/// The sparse system of the loops, with the slot of each of their links.
struct Core {
    system: System,
    slots: Vec<usize>,
}

impl<'a> Solver<'a> {
    /// `peel` off: all is solved as one sparse system, which tests hold the trees against.
    fn new(network: &'a Network, peel: bool) -> Result<Self, SolveError> {
        if network.sources.is_empty() || network.nodes.is_empty() {
            return Err(SolveError::NoSource);
        }
        let (ways, laws) = ways_of(network)?;
        let source_laws = sources_of(network)?;
        let given = emitters_of(network)?;
        let order = Order::of(network, &ways, peel);
        let place = |node: usize| order.place[node];
        let hanging = order.hanging();
        let rise = |i: u32| network.nodes[i as usize].elevation.m() * KPA_PER_M;
        let height: Vec<f64> = order.nodes().map(rise).collect();
        let nodes = height.len();
        let links: Vec<Part> = order.links().map(|l| Part::new(laws[l as usize])).collect();
        let mut one_way = Vec::new();
        let mut shuts = |place_of_link: usize, l: u32| {
            let link = &network.links[l as usize];
            let set = match &link.kind {
                LinkKind::Regulator { set, .. } => set.kpa() + height[place(link.to) as usize],
                _ => f64::INFINITY,
            };
            one_way.push(OneWay { link: place_of_link, set });
        };
        let mut hung = Vec::with_capacity(hanging);
        for (i, t) in order.taken.iter().enumerate() {
            let way = &ways[t.link as usize];
            hung.push(Hung::new(t.parent, if way.to == t.node { 1.0 } else { -1.0 }));
            if !way.both {
                shuts(i, t.link);
            }
        }
        let mut round = Vec::with_capacity(order.round.len());
        for (i, l) in order.round.iter().enumerate() {
            let way = &ways[*l as usize];
            round.push((place(way.from as usize), place(way.to as usize)));
            if !way.both {
                shuts(hanging + i, *l);
            }
        }
        // A core of one node needs no system: what hangs on it has left its equation.
        let core = if nodes - hanging > 1 {
            let own = |&(a, b): &(u32, u32)| (a as usize - hanging, b as usize - hanging);
            let pairs: Vec<(usize, usize)> = round.iter().map(own).collect();
            let made = System::new(nodes - hanging, &pairs);
            let (system, slots) = made.ok_or_else(|| SolveError::BadFigure { part: "the network".into() })?;
            Some(Core { system, slots })
        } else {
            None
        };
        let sources = network
            .sources
            .iter()
            .zip(source_laws)
            .map(|(s, (shut_off, law))| {
                let node = place(s.node) as usize;
                (node, shut_off + height[node], Part::new(law))
            })
            .collect();
        let nominal = |(law, _): &(u32, u32)| given.laws[*law as usize].nominal();
        let scale = given.of.iter().map(nominal).sum();
        let emitters = given.by_place(&order, &height);
        let mut solver = Self {
            network,
            head: height.clone(),
            height,
            diagonal: vec![0.0; nodes],
            rhs: vec![0.0; nodes],
            hung,
            links,
            round,
            one_way,
            sources,
            emitters,
            given,
            pinned: vec![None; nodes - hanging],
            core,
            root_takes: 0.0,
            scale,
            left_over: LeftOver { energy: Energy::default(), mass: f64::INFINITY },
            order,
        };
        solver.start_flows();
        Ok(solver)
    }

    /// Where a link leads from and to.
    fn ends(&self, link: usize) -> (usize, usize) {
        match self.hung.get(link) {
            Some(h) if h.sign > 0.0 => (h.parent as usize, link),
            Some(h) => (link, h.parent as usize),
            None => {
                let (from, to) = self.round[link - self.hung.len()];
                (from as usize, to as usize)
            }
        }
    }

    fn run(mut self, params: Params) -> Result<Solution, SolveError> {
        // In a tree flows are known from what they feed; round a loop pressure alone says them.
        let wanted_energy = params.energy * if self.core.is_some() { 1.0 } else { 100.0 };
        let mut best = f64::INFINITY;
        let mut relax = 1.0;
        let mut since_best = 0;
        for iteration in 1..=params.max_iterations {
            self.step(relax)?;
            let residual = self.residual();
            // States are judged on flows that have nearly settled: halfway there, a regulator's
            // inlet may look starved only because what it passes is a step late.
            let quiet = residual.energy.kpa() < 0.5 && residual.mass.lpm() < 0.01 * self.scale.max(0.1);
            let switched = self.switch_states(iteration, quiet || iteration % 10 == 0);
            let wanted_mass = (params.mass_share * self.scale).max(LEAST_MASS);
            let settled = !switched && residual.energy <= wanted_energy && residual.mass.lpm() <= wanted_mass;
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
            relax = if iteration > 20 && error > best * 0.9 { 0.6 } else { 1.0 };
            best = best.min(error);
            if iteration == params.max_iterations || !error.is_finite() {
                return Err(SolveError::NotConverged {
                    iterations: iteration,
                    worst: self.name_of_worst(),
                    energy_kpa: residual.energy.kpa(),
                    mass_lpm: residual.mass.lpm(),
                });
            }
        }
        Err(SolveError::NotConverged { iterations: 0, worst: "none".into(), energy_kpa: 0.0, mass_lpm: 0.0 })
    }
}

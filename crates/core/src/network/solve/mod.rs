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
mod regulators;

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

/// Solves with given tolerances.
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

    /// Starts every link with what hangs behind it when each emitter gives its nominal flow, along
    /// a spanning tree from the sources: exact but for the pressure where the network is a tree.
    fn start_flows(&mut self) {
        let net = self.network;
        let mut around: Vec<Vec<usize>> = vec![Vec::new(); net.nodes.len()];
        for (i, l) in net
            .links
            .iter()
            .enumerate()
            .filter(|(i, _)| self.links[*i].state != LinkState::Closed)
        {
            around[l.from].push(i);
            around[l.to].push(i);
        }
        let mut wanted = vec![0.0; net.nodes.len()];
        for (e, d) in net.emitters.iter().zip(&self.emitters) {
            wanted[e.node] += d.q;
        }
        let mut seen = vec![false; net.nodes.len()];
        let mut order: Vec<(usize, Option<usize>)> = Vec::with_capacity(net.nodes.len());
        for s in &net.sources {
            if !std::mem::replace(&mut seen[s.node], true) {
                order.push((s.node, None));
            }
        }
        let mut next = 0;
        while next < order.len() {
            let (node, _) = order[next];
            next += 1;
            for &l in &around[node] {
                let link = &net.links[l];
                let forward = link.from == node;
                let other = if forward { link.to } else { link.from };
                let one_way = !matches!(link.kind, LinkKind::Pipe { .. });
                if !(seen[other] || one_way && !forward) {
                    seen[other] = true;
                    order.push((other, Some(l)));
                }
            }
        }
        let small = (self.scale / 100.0).max(0.01);
        for part in &mut self.links {
            part.q = if part.state == LinkState::Closed {
                0.0
            } else {
                small
            };
        }
        for &(node, via) in order.iter().rev() {
            let Some(l) = via else { continue };
            let link = &net.links[l];
            let flow = wanted[node].max(small * 0.01);
            let (sign, other) = if link.to == node {
                (1.0, link.from)
            } else {
                (-1.0, link.to)
            };
            self.links[l].q = sign * flow;
            wanted[other] += wanted[node];
        }
        let count = self.sources.len() as f64;
        for (_, part) in &mut self.sources {
            part.q = (self.scale / count).max(0.01);
            part.refresh();
        }
        for part in &mut self.links {
            part.refresh();
        }
        // Where every other pipe closes a loop, the tree's flows are far from the truth: the first
        // step then solves the pipes as straight laws, at the resistance of an everyday velocity.
        let open = self.links.iter().filter(|p| p.state == LinkState::Open).count();
        if open > order.len() + order.len() / 10 {
            for (part, link) in self.links.iter_mut().zip(&net.links) {
                if let (LinkKind::Pipe { inside, .. }, LinkState::Open) = (&link.kind, part.state) {
                    let q = Flow::at_speed(*inside, EVERYDAY).lpm();
                    (part.q, part.h, part.slope) = (0.0, 0.0, part.law.at(q).0 / q);
                }
            }
        }
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

    /// One Newton step: heads from the linearised system, then flows from the heads.
    fn step(&mut self, relax: f64) -> Result<(), SolveError> {
        let net = self.network;
        let mut system = self.system.take().ok_or(SolveError::NoSource)?;
        system.clear();
        self.pin_outlets();
        for (l, link) in net.links.iter().enumerate() {
            let part = &self.links[l];
            if !(self.live[link.from] && self.live[link.to]) || link.from == link.to {
                continue;
            }
            if part.state == LinkState::Active {
                if self.pinned[link.from].is_none() {
                    system.rhs[self.unknown[link.from]] -= part.q;
                }
                continue;
            }
            let (c, y) = part.line();
            let (a, b) = (self.unknown[link.from], self.unknown[link.to]);
            let (pin_a, pin_b) = (self.pinned[link.from], self.pinned[link.to]);
            if pin_a.is_none() {
                system.add_diagonal(a, y);
                system.rhs[a] -= c;
            }
            if pin_b.is_none() {
                system.add_diagonal(b, y);
                system.rhs[b] += c;
            }
            match (pin_a, pin_b) {
                (None, None) => system.add_slot(self.slots[l], -y),
                (Some(_), None) => system.rhs[b] += y * self.pin_head(link.from),
                (None, Some(_)) => system.rhs[a] += y * self.pin_head(link.to),
                (Some(_), Some(_)) => {}
            }
        }
        for (source, (reservoir, part)) in net.sources.iter().zip(&self.sources) {
            if self.pinned[source.node].is_none() {
                let (c, y) = part.line();
                let i = self.unknown[source.node];
                system.add_diagonal(i, y);
                system.rhs[i] += c + y * reservoir;
            }
        }
        for (emitter, drip) in net.emitters.iter().zip(&self.emitters) {
            if !self.live[emitter.node] || self.pinned[emitter.node].is_some() {
                continue;
            }
            let i = self.unknown[emitter.node];
            match drip.mode {
                EmitterMode::Off => {}
                EmitterMode::Low => {
                    let (_, slope) = drip.law.straight();
                    system.add_diagonal(i, slope);
                    system.rhs[i] += slope * self.height[emitter.node];
                }
                EmitterMode::Limited => system.rhs[i] -= drip.q,
                EmitterMode::Power => {
                    let (h, slope) = drip.law.at(drip.q);
                    system.add_diagonal(i, 1.0 / slope);
                    system.rhs[i] -= drip.q - (h + self.height[emitter.node]) / slope;
                }
            }
        }
        for (node, pin) in self.pinned.iter().enumerate() {
            if pin.is_some() {
                let i = self.unknown[node];
                system.add_diagonal(i, 1.0);
                system.rhs[i] = self.pin_head(node);
            }
        }
        let solved = system.solve();
        if solved.is_ok() {
            for (node, &i) in self.unknown.iter().enumerate().filter(|(_, i)| **i != usize::MAX) {
                self.head[node] = system.rhs[i];
            }
        }
        self.system = Some(system);
        if solved.is_err() {
            // Closed parts may have left a piece hanging on nothing: open them and look again.
            let mut opened = false;
            for (part, link) in self.links.iter_mut().zip(&net.links) {
                let shut = matches!(link.kind, LinkKind::Pipe { open: false, .. });
                if part.state == LinkState::Closed && !shut && self.live[link.from] && self.live[link.to] {
                    opened |= part.switch(LinkState::Open);
                }
            }
            for (_, part) in &mut self.sources {
                opened |= part.state == LinkState::Closed && part.switch(LinkState::Open);
            }
            return if opened {
                Ok(())
            } else {
                Err(SolveError::BadFigure {
                    part: "the network".into(),
                })
            };
        }
        self.update_flows(relax);
        Ok(())
    }

    fn update_flows(&mut self, relax: f64) {
        let net = self.network;
        let mix = |old: f64, new: f64| old + relax * (new - old);
        for (l, link) in net.links.iter().enumerate() {
            let drop = self.head[link.from] - self.head[link.to];
            let part = &mut self.links[l];
            match part.state {
                LinkState::Closed => part.q = 0.0,
                LinkState::Active => {}
                LinkState::Open => {
                    let (c, y) = part.line();
                    part.q = mix(part.q, c + y * drop);
                    part.refresh();
                }
            }
        }
        for (source, (reservoir, part)) in net.sources.iter().zip(&mut self.sources) {
            let drop = *reservoir - self.head[source.node];
            if part.state == LinkState::Closed {
                part.q = 0.0;
            } else {
                let (c, y) = part.line();
                part.q = mix(part.q, c + y * drop);
                part.refresh();
            }
        }
        for (emitter, drip) in net.emitters.iter().zip(&mut self.emitters) {
            if !self.live[emitter.node] {
                continue;
            }
            let p = self.head[emitter.node] - self.height[emitter.node];
            if drip.mode == EmitterMode::Power {
                let (h, slope) = drip.law.at(drip.q);
                let new = mix(drip.q, drip.q + (p - h) / slope);
                // Never shut at one blow: on a starved network all heads would shut together,
                // see the full pressure, open together, and so on for ever.
                drip.q = new.max(drip.q * 0.1);
            }
            let (least, slope) = drip.law.straight();
            drip.mode = if p >= drip.law.limit {
                drip.q = drip.law.most;
                EmitterMode::Limited
            } else if drip.mode == EmitterMode::Power && drip.q >= least {
                EmitterMode::Power
            } else if p <= 0.0 {
                drip.q = 0.0;
                EmitterMode::Off
            } else if p * slope <= least || drip.mode == EmitterMode::Off {
                drip.q = p * slope;
                EmitterMode::Low
            } else {
                drip.q = drip.law.flow_at(p);
                EmitterMode::Power
            };
        }
        self.pass_through_regulators();
    }

    /// Mass at every node and energy along every part, from the present heads and flows; with the
    /// name of the part that is furthest off.
    fn residual(&self) -> (Residual, String) {
        let net = self.network;
        let mut balance = vec![0.0; net.nodes.len()];
        let (mut energy, mut worst) = (0.0f64, usize::MAX);
        for (l, link) in net.links.iter().enumerate() {
            let part = &self.links[l];
            balance[link.from] -= part.q;
            balance[link.to] += part.q;
            if part.state == LinkState::Open && (part.q >= -REVERSAL || matches!(part.law, Law::Pipe { .. }))
            {
                let off = (self.head[link.from] - self.head[link.to] - part.h).abs();
                if off > energy || !off.is_finite() {
                    (energy, worst) = (off, l);
                }
            }
        }
        for (source, (reservoir, part)) in net.sources.iter().zip(&self.sources) {
            balance[source.node] += part.q;
            if part.state == LinkState::Open {
                energy = energy.max((reservoir - self.head[source.node] - part.h).abs());
            }
        }
        let mut mass = 0.0f64;
        for (emitter, drip) in net.emitters.iter().zip(&self.emitters) {
            balance[emitter.node] -= drip.q;
            if self.live[emitter.node] {
                let p = self.head[emitter.node] - self.height[emitter.node];
                mass = mass.max((drip.q - drip.law.flow_at(p)).abs());
            }
        }
        for (node, off) in balance.iter().enumerate() {
            if self.live[node] {
                mass = mass.max(off.abs());
            }
        }
        let name = net
            .links
            .get(worst)
            .map_or_else(|| "a source or a head".to_owned(), |l| format!("‘{}’", l.id));
        (
            Residual {
                mass: Flow::from_lpm(mass),
                energy: Pressure::from_kpa(energy),
            },
            name,
        )
    }

    fn report(self, iterations: usize, residual: Residual) -> Solution {
        let net = self.network;
        let pressures: Vec<Pressure> = (0..net.nodes.len())
            .map(|i| {
                if self.live[i] {
                    Pressure::from_kpa(self.head[i] - self.height[i])
                } else {
                    Pressure::ZERO
                }
            })
            .collect();
        let links = net
            .links
            .iter()
            .zip(&self.links)
            .map(|(link, part)| {
                let flow = Flow::from_lpm(if part.state == LinkState::Closed {
                    0.0
                } else {
                    part.q
                });
                let velocity = match link.kind {
                    LinkKind::Pipe { inside, .. } => Some(Speed::in_pipe(flow, inside)),
                    _ => None,
                };
                let drop = if part.state == LinkState::Closed {
                    0.0
                } else {
                    self.head[link.from] - self.head[link.to]
                };
                LinkResult {
                    flow,
                    drop: Pressure::from_kpa(drop),
                    state: part.state,
                    velocity,
                }
            })
            .collect();
        let emitters = net
            .emitters
            .iter()
            .zip(&self.emitters)
            .map(|(e, drip)| EmitterResult {
                flow: Flow::from_lpm(drip.q),
                inlet: pressures[e.node],
                nozzle: e.emission.nozzle_pressure(pressures[e.node]),
            })
            .collect();
        let sources = self
            .sources
            .iter()
            .map(|(_, part)| Flow::from_lpm(part.q))
            .collect();
        Solution {
            iterations,
            pressures,
            cut_off: self.live.iter().map(|l| !l).collect(),
            links,
            emitters,
            sources,
            residual,
        }
    }
}

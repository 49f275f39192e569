use super::grow::{Step, ZoneHead};
use super::head::{Flushing, HeadResult, HeadState};
use super::inputs::ZoneInputs;
use super::model::{ZoneModel, zone_model};
use super::standing::Standing;
use super::walk::{WalkStep, walk};
use crate::catalogue::{Kind, Nozzle};
use crate::drip::DripFault;
use crate::network::{EmitterResult, LinkState, Solution, SolveError, solve};
use crate::plan::Regulation;
use crate::units::{Flow, Length, Pressure, Rate, Speed, Surface};
use crate::water::CurveFault;

/// What regulates a zone.
#[derive(Debug, Clone, PartialEq)]
pub enum RegulatorPart {
    /// Every body.
    Bodies,
    /// A part of its own, by its name in the catalogue.
    Model(String),
}

/// The zone's regulator with water running.
#[derive(Debug, Clone, PartialEq)]
pub struct RegulatorResult {
    /// What it is.
    pub part: RegulatorPart,
    /// Its set point.
    pub set: Pressure,
    /// Pressure at its inlet (at the worst body, for bodies).
    pub inlet: Pressure,
    /// What it has over its set point.
    pub room: Pressure,
    /// Its state; bodies: active if every one holds.
    pub state: LinkState,
    /// The flow it is made for.
    pub flow_band: Option<(Flow, Flow)>,
}

/// All that is known of a zone with water running.
#[derive(Debug, Clone, PartialEq)]
pub struct ZoneAssessment {
    /// Valve id.
    pub valve: String,
    /// Heads, in the order of the groups.
    pub heads: Vec<HeadResult>,
    /// Water taken.
    pub flow: Flow,
    /// What it would take with every head at nominal.
    pub nominal_flow: Flow,
    /// Place in `heads` of the head furthest below its kind's nominal.
    pub worst: usize,
    /// Place in `heads` of the head furthest above it.
    pub best: usize,
    /// (highest - lowest) / nominal, of the kind of head in which that is largest.
    pub spread: f64,
    /// The kind that it is of, with its ends.
    pub widest: Spread,
    /// Mean rate over the area.
    pub rate: Rate,
    /// Ground that its heads are to water.
    pub area: Surface,
    /// Highest rate of a group over the lowest.
    pub rate_ratio: f64,
    /// Fastest pipe behind the chain.
    pub velocity: Speed,
    /// In the first leg rather than further on.
    pub fastest_first_leg: bool,
    /// Drawn legs that its water runs through.
    pub legs: Vec<LegResult>,
    /// Drip with its flush valves open; filled by [`super::assess_flushed`] alone.
    pub flushing: Vec<Flushing>,
    /// From the street to the worst head.
    pub walk: Vec<WalkStep>,
    /// Height of its highest outlet over the end of the shared chain.
    pub top: Length,
    /// The same over its valve.
    pub top_over_valve: Length,
    /// Height of the worst head over the gauge.
    pub rise_of_lowest: Length,
    /// At the end of the shared chain.
    pub at_connection: Pressure,
    /// Before the valve.
    pub valve_inlet: Pressure,
    /// Before the lateral.
    pub lateral_inlet: Pressure,
    /// What the piping behind the valve must hold.
    pub standing: Standing,
    /// The zone's regulator.
    pub regulator: Option<RegulatorResult>,
    /// Between its highest and its lowest head.
    pub height_range: Length,
    /// Newton steps.
    pub iterations: usize,
    /// Largest imbalance left by the solver.
    pub residual: Flow,
}

/// A drawn leg with water running.
#[derive(Debug, Clone, PartialEq)]
pub struct LegResult {
    /// Its name on the plan.
    pub id: String,
    /// Along the way it is drawn; negative against it.
    pub flow: Flow,
    /// How fast, whichever way.
    pub velocity: Speed,
    /// Spent in it.
    pub drop: Pressure,
}

/// Pressures at the nozzles of one kind of head.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Spread {
    /// The kind.
    pub kind: Kind,
    /// Lowest.
    pub lowest: Pressure,
    /// Highest.
    pub highest: Pressure,
    /// Nominal.
    pub nominal: Pressure,
}

impl Spread {
    /// (highest - lowest) / nominal.
    pub fn share(&self) -> f64 {
        (self.highest - self.lowest) / self.nominal
    }
}

/// Why a zone has no figures.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum ZoneFault {
    /// The water is not known.
    #[error(transparent)]
    Water(#[from] CurveFault),
    /// No balance.
    #[error(transparent)]
    Solve(#[from] SolveError),
    /// Drip that can't be laid.
    #[error("drip in {0} cannot be laid: {1}")]
    Drip(String, DripFault),
    /// No heads.
    #[error("no heads on this valve. Move some here or delete the valve")]
    Empty,
}

impl ZoneAssessment {
    /// The worst head.
    pub fn lowest(&self) -> &HeadResult {
        &self.heads[self.worst]
    }
    /// The head with most pressure for its kind.
    pub fn highest(&self) -> &HeadResult {
        &self.heads[self.best]
    }
    /// The head that starves most, if any does.
    pub fn starved(&self) -> Option<&HeadResult> {
        let starved = self.heads.iter().filter(|h| h.state() == HeadState::Starved);
        starved.min_by(|a, b| (a.nozzle / a.band.least).total_cmp(&(b.nozzle / b.band.least)))
    }
    /// A head of it.
    pub fn head(&self, group: &str, index: u32) -> Option<&HeadResult> {
        self.heads.iter().find(|h| h.head.index == index && h.head.group == group)
    }
}

/// Solves a zone and reads the figures off.
///
/// The network of [`zone_model`] is balanced (see [`solve`]); of every head the pressure and flow, of the
/// zone its flow, its rate (60 L/min over its ground, mm/h), its spread ((highest − lowest) / nominal of the
/// kind in which that is widest), the fastest pipe (Q / (π d² / 4)), the walk of pressure to the worst head,
/// and what its piping must hold at its lowest point. Up to 5,000 heads and 200,000 emitters.
///
/// # Errors
/// [`ZoneFault`]: no heads, or no balance found.
///
/// # Source
/// Todini and Pilati (1988) for the balance; the rest is arithmetic on it.
///
/// # Example
/// One 12 ft spray behind 20 ft of 0.930 in pipe and a valve of 1.5 psi at 50 psi: what a hand computes with
/// Hazen and Williams and q = 2.39 √(p / 30) (a test holds it to a thousandth).
pub fn assess_zone(inputs: &ZoneInputs) -> Result<ZoneAssessment, ZoneFault> {
    if let Some((group, fault)) = inputs.unlaid.first() {
        return Err(ZoneFault::Drip(group.clone(), fault.clone()));
    }
    let model = zone_model(inputs);
    if model.heads.is_empty() {
        return Err(ZoneFault::Empty);
    }
    let solution = solve(&model.network)?;
    let heads = head_results(inputs, &model.heads, &solution);
    let share = |i: usize| heads[i].nozzle / heads[i].band.best;
    let order = |a: &usize, b: &usize| share(*a).total_cmp(&share(*b));
    let worst = (0..heads.len()).min_by(order).unwrap_or(0);
    let best = (0..heads.len()).max_by(order).unwrap_or(0);
    let area: f64 = model.heads.iter().map(|h| h.area_m2).sum();
    let flow: Flow = heads.iter().map(|h| h.flow).sum();
    let (velocity, fastest_first_leg) = fastest(&model, &solution);
    let heights = model
        .heads
        .iter()
        .map(|h| model.network.nodes[model.network.emitters[h.emitters.start].node].elevation.m());
    let (low, high) = heights.fold((f64::MAX, f64::MIN), |(a, b), e| (a.min(e), b.max(e)));
    let elevation = |node: usize| model.network.nodes[node].elevation;
    let climb = elevation(model.valve_inlet) - elevation(model.connection);
    let before = inputs.point.standing() - Pressure::of_height(climb);
    let widest = widest(&heads);
    Ok(ZoneAssessment {
        valve: inputs.valve.clone(),
        nominal_flow: heads.iter().map(|h| h.nominal_flow).sum(),
        spread: widest.share(),
        widest,
        rate: Rate::from_mmph(flow.lpm() * 60.0 / area.max(1e-6)),
        area: Surface::from_m2(area),
        rate_ratio: rate_ratio(&model, &heads),
        velocity,
        legs: legs(&model, &solution),
        flushing: Vec::new(),
        fastest_first_leg,
        walk: walk(inputs, &model, &solution, worst, &heads[worst]),
        top: Length::from_m(high) - elevation(model.connection),
        top_over_valve: Length::from_m(high) - elevation(model.valve_inlet),
        rise_of_lowest: elevation(model.network.emitters[model.heads[worst].emitters.start].node)
            - elevation(0),
        at_connection: solution.pressures[model.connection],
        valve_inlet: solution.pressures[model.valve_inlet],
        lateral_inlet: solution.pressures[model.lateral_inlet],
        standing: Standing::of(inputs, &model, &solution, before),
        regulator: regulator(inputs, &model, &solution, &heads),
        height_range: Length::from_m(high - low),
        iterations: solution.iterations,
        residual: solution.residual.mass,
        flow,
        worst,
        best,
        heads,
    })
}

/// What the heads of a zone get and give.
pub(super) fn head_results(inputs: &ZoneInputs, heads: &[ZoneHead], solution: &Solution) -> Vec<HeadResult> {
    let row_of = |group: &str| inputs.groups.iter().find(|g| g.id == group).and_then(|g| g.row);
    heads
        .iter()
        .map(|h| {
            let results = &solution.emitters[h.emitters.clone()];
            let low = |f: fn(&EmitterResult) -> Pressure| {
                results.iter().map(f).reduce(Pressure::min).unwrap_or_default()
            };
            let flow: Flow = results.iter().map(|r| r.flow).sum();
            let watering = &inputs.waterings[h.watering];
            // A body takes its own share before the nozzle, also where it holds nothing.
            let body = match inputs.regulation {
                Regulation::Body { .. } if !watering.class.kind.is_drip() => {
                    Nozzle::behind_body(&watering.class)
                }
                _ => 1.0,
            };
            let drawn = inputs.drawn.iter().find(|d| d.head == h.head);
            let emitters = f64::from(row_of(&h.head.group).map_or(1, |(r, _)| r.emitters));
            let highest = results.iter().map(|r| r.nozzle).reduce(Pressure::max).unwrap_or_default();
            HeadResult {
                head: h.head.clone(),
                kind: watering.class.kind,
                arc: h.arc,
                inlet: low(|r| r.inlet),
                nozzle: (low(|r| r.nozzle) * body - h.behind).max(Pressure::ZERO),
                highest: highest * body,
                flow,
                nominal_flow: drawn
                    .map_or_else(|| watering.nozzle.flow_for_arc(h.arc) * emitters, |d| inputs.nominal_of(d)),
                exponent: watering.nozzle.exponent_with(&watering.class),
                band: watering.class.band(),
                floods: drawn.and_then(|d| d.grid.as_ref()).is_some_and(|g| g.floods),
                rate: Rate::from_mmph(flow.lpm() * 60.0 / h.area_m2.max(1e-6)),
            }
        })
        .collect()
}

/// The kind of head whose pressures lie widest apart, for its nominal.
fn widest(heads: &[HeadResult]) -> Spread {
    let mut kinds: Vec<Spread> = Vec::new();
    for h in heads {
        match kinds.iter_mut().find(|s| s.kind == h.kind) {
            Some(s) => (s.lowest, s.highest) = (s.lowest.min(h.nozzle), s.highest.max(h.highest)),
            None => kinds.push(Spread {
                kind: h.kind,
                lowest: h.nozzle,
                highest: h.highest,
                nominal: h.band.best,
            }),
        }
    }
    let widest = kinds.into_iter().max_by(|a, b| a.share().total_cmp(&b.share()));
    widest.expect("a zone without heads is no zone")
}

fn legs(model: &ZoneModel, solution: &Solution) -> Vec<LegResult> {
    let of = |&(link, reversed): &(usize, bool)| {
        let r = &solution.links[link];
        LegResult {
            id: model.network.links[link].id.clone(),
            flow: if reversed { Flow::ZERO - r.flow } else { r.flow },
            velocity: Speed::from_mps(r.velocity.map_or(0.0, |v| v.mps().abs())),
            drop: Pressure::from_kpa(r.drop.kpa().abs()),
        }
    };
    model.legs.iter().map(of).collect()
}

/// The fastest pipe behind the shared chain, and whether it is the first leg.
fn fastest(model: &ZoneModel, solution: &Solution) -> (Speed, bool) {
    let mut found = (Speed::ZERO, false);
    for (step, link) in model.steps.iter().zip(&solution.links) {
        let speed = match (step, link.velocity) {
            (Step::FirstLeg | Step::Lateral | Step::Mainline | Step::Drip(_), Some(v)) => {
                Speed::from_mps(v.mps().abs())
            }
            _ => continue,
        };
        let first_leg = *step == Step::FirstLeg;
        if speed > found.0 || (speed == found.0 && first_leg) {
            found = (speed, first_leg);
        }
    }
    found
}

/// Rates are compared by group and arc: in one group of rotors arcs need not match.
fn rate_ratio(model: &ZoneModel, heads: &[HeadResult]) -> f64 {
    let mut rates: Vec<((&str, u16), f64, f64)> = Vec::new();
    for (h, r) in model.heads.iter().zip(heads) {
        let of = (h.head.group.as_str(), h.arc);
        match rates.iter_mut().find(|(g, _, _)| *g == of) {
            Some((_, q, a)) => {
                *q += r.nominal_flow.lpm();
                *a += h.area_m2;
            }
            None => rates.push((of, r.nominal_flow.lpm(), h.area_m2)),
        }
    }
    let rate = |&(_, q, a): &((&str, u16), f64, f64)| q / a.max(1e-9);
    let (low, high) = rates.iter().map(rate).fold((f64::MAX, 0.0f64), |(a, b), r| (a.min(r), b.max(r)));
    high / low.max(1e-9)
}

fn regulator(
    inputs: &ZoneInputs,
    model: &ZoneModel,
    solution: &Solution,
    heads: &[HeadResult],
) -> Option<RegulatorResult> {
    if let Regulation::Body { set } = inputs.regulation {
        let bodies = || heads.iter().filter(|h| !h.kind.is_drip());
        let inlet = bodies().map(|h| h.inlet).reduce(Pressure::min)?;
        let nearly = set * 0.9999;
        return Some(RegulatorResult {
            part: RegulatorPart::Bodies,
            set,
            inlet,
            room: inlet - set,
            state: if bodies().all(|h| h.nozzle >= nearly) { LinkState::Active } else { LinkState::Open },
            flow_band: None,
        });
    }
    let before = |link: &&usize| solution.pressures[model.network.links[**link].from].kpa();
    // Of several the one with least room.
    let link = *model.regulator_links.iter().min_by(|a, b| before(a).total_cmp(&before(b)))?;
    let fitted = inputs.regulator.as_ref()?;
    let inlet = solution.pressures[model.network.links[link].from];
    Some(RegulatorResult {
        part: RegulatorPart::Model(fitted.model.label.clone()),
        set: fitted.set,
        inlet,
        room: inlet - fitted.set,
        state: solution.links[link].state,
        flow_band: Some(fitted.model.flow_band),
    })
}

use super::grow::Step;
use super::head::HeadResult;
use super::inputs::ZoneInputs;
use super::model::{ZoneModel, zone_model};
use super::walk::{WalkStep, walk};
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
    /// (highest - lowest) / nominal.
    pub spread: f64,
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
    /// From the street to the worst head.
    pub walk: Vec<WalkStep>,
    /// At the end of the shared chain.
    pub at_connection: Pressure,
    /// Before the valve.
    pub valve_inlet: Pressure,
    /// Before the lateral.
    pub lateral_inlet: Pressure,
    /// With a flow of nothing: what a closed end or a shut valve downstream sees.
    pub dead_end: Pressure,
    /// The zone's regulator.
    pub regulator: Option<RegulatorResult>,
    /// Between its highest and its lowest head.
    pub height_range: Length,
    /// Newton steps.
    pub iterations: usize,
    /// Largest imbalance left by the solver.
    pub residual: Flow,
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
    /// No heads.
    #[error("no heads on this valve yet: move some here or remove it")]
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
    /// A head of it.
    pub fn head(&self, group: &str, index: u32) -> Option<&HeadResult> {
        self.heads
            .iter()
            .find(|h| h.head.index == index && h.head.group == group)
    }
}

/// Solves a zone and reads the figures off.
///
/// # Errors
/// [`ZoneFault`]: no heads, or no balance found.
pub fn assess_zone(inputs: &ZoneInputs) -> Result<ZoneAssessment, ZoneFault> {
    let model = zone_model(inputs);
    if model.heads.is_empty() {
        return Err(ZoneFault::Empty);
    }
    let solution = solve(&model.network)?;
    let heads = heads(inputs, &model, &solution);
    let share = |i: usize| heads[i].nozzle / heads[i].band.best;
    let order = |a: &usize, b: &usize| share(*a).total_cmp(&share(*b));
    let worst = (0..heads.len()).min_by(order).unwrap_or(0);
    let best = (0..heads.len()).max_by(order).unwrap_or(0);
    let area: f64 = model.heads.iter().map(|h| h.area_m2).sum();
    let flow: Flow = heads.iter().map(|h| h.flow).sum();
    let (velocity, fastest_first_leg) = fastest(&model, &solution);
    let heights = model.heads.iter().map(|h| {
        model.network.nodes[model.network.emitters[h.emitters.start].node]
            .elevation
            .m()
    });
    let (low, high) = heights.fold((f64::MAX, f64::MIN), |(a, b), e| (a.min(e), b.max(e)));
    let valve_height = Pressure::of_height(model.network.nodes[model.valve_inlet].elevation);
    Ok(ZoneAssessment {
        valve: inputs.valve.clone(),
        nominal_flow: heads.iter().map(|h| h.nominal_flow).sum(),
        spread: (heads[best].nozzle - heads[worst].nozzle) / heads[worst].band.best,
        rate: Rate::from_mmph(flow.lpm() * 60.0 / area.max(1e-6)),
        area: Surface::from_m2(area),
        rate_ratio: rate_ratio(&model, &heads),
        velocity,
        fastest_first_leg,
        walk: walk(inputs, &model, &solution, worst, &heads[worst]),
        at_connection: solution.pressures[model.connection],
        valve_inlet: solution.pressures[model.valve_inlet],
        lateral_inlet: solution.pressures[model.lateral_inlet],
        dead_end: inputs.point.standing() - valve_height,
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

fn heads(inputs: &ZoneInputs, model: &ZoneModel, solution: &Solution) -> Vec<HeadResult> {
    let row_of = |group: &str| inputs.groups.iter().find(|g| g.id == group).and_then(|g| g.row);
    model
        .heads
        .iter()
        .map(|h| {
            let results = &solution.emitters[h.emitters.clone()];
            let low = |f: fn(&EmitterResult) -> Pressure| {
                results.iter().map(f).reduce(Pressure::min).unwrap_or_default()
            };
            let flow: Flow = results.iter().map(|r| r.flow).sum();
            let watering = &inputs.waterings[h.watering];
            let emitters = f64::from(row_of(&h.head.group).map_or(1, |(r, _)| r.emitters));
            HeadResult {
                head: h.head.clone(),
                arc: h.arc,
                inlet: low(|r| r.inlet),
                nozzle: low(|r| r.nozzle),
                flow,
                nominal_flow: watering.nozzle.flow_for_arc(h.arc) * emitters,
                exponent: watering.nozzle.exponent_with(&watering.class),
                band: watering.class.band(),
                rate: Rate::from_mmph(flow.lpm() * 60.0 / h.area_m2.max(1e-6)),
            }
        })
        .collect()
}

/// The fastest pipe behind the shared chain, and whether it is the first leg.
fn fastest(model: &ZoneModel, solution: &Solution) -> (Speed, bool) {
    let mut found = (Speed::ZERO, false);
    for (step, link) in model.steps.iter().zip(&solution.links) {
        let speed = match (step, link.velocity) {
            (Step::FirstLeg | Step::Lateral | Step::Mainline, Some(v)) => Speed::from_mps(v.mps().abs()),
            _ => continue,
        };
        let first_leg = *step == Step::FirstLeg;
        if speed > found.0 || (speed == found.0 && first_leg) {
            found = (speed, first_leg);
        }
    }
    found
}

/// Rates are compared group by group: within one the arcs are matched.
fn rate_ratio(model: &ZoneModel, heads: &[HeadResult]) -> f64 {
    let mut rates: Vec<(&str, f64, f64)> = Vec::new();
    for (h, r) in model.heads.iter().zip(heads) {
        match rates.iter_mut().find(|(g, _, _)| *g == h.head.group) {
            Some((_, q, a)) => {
                *q += r.nominal_flow.lpm();
                *a += h.area_m2;
            }
            None => rates.push((&h.head.group, r.nominal_flow.lpm(), h.area_m2)),
        }
    }
    let rate = |&(_, q, a): &(&str, f64, f64)| q / a.max(1e-9);
    let (low, high) = rates
        .iter()
        .map(rate)
        .fold((f64::MAX, 0.0f64), |(a, b), r| (a.min(r), b.max(r)));
    high / low.max(1e-9)
}

fn regulator(
    inputs: &ZoneInputs,
    model: &ZoneModel,
    solution: &Solution,
    heads: &[HeadResult],
) -> Option<RegulatorResult> {
    if let Regulation::Body { set } = inputs.regulation {
        let inlet = heads.iter().map(|h| h.inlet).reduce(Pressure::min)?;
        return Some(RegulatorResult {
            part: RegulatorPart::Bodies,
            set,
            inlet,
            room: inlet - set,
            state: if inlet >= set {
                LinkState::Active
            } else {
                LinkState::Open
            },
            flow_band: None,
        });
    }
    let link = model.regulator_link?;
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

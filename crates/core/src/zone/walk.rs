use super::grow::Step;
use super::head::HeadResult;
use super::inputs::{Stage, ZoneInputs};
use super::model::ZoneModel;
use crate::chain::PartName;
use crate::network::{LinkState, Network, Solution};
use crate::plan::Regulation;
use crate::units::{Length, Pressure, Speed};

/// What a step of the walk is.
#[derive(Debug, Clone, PartialEq)]
pub enum WalkPart {
    /// What stands at the gauge with nothing running.
    Static,
    /// What the supply itself costs up to the gauge, from the readings.
    SupplyToGauge,
    /// A part of the shared chain.
    Chain(PartName),
    /// Pipe to the valve.
    Mainline,
    /// The solenoid valve.
    Valve,
    /// Its filter, clean.
    Filter,
    /// Its regulator.
    Regulator,
    /// Another part of its assembly, named for people.
    Part(String),
    /// Another regulator of its assembly, named for people.
    Preset(String),
    /// From the valve to the first head or tee.
    FirstLeg,
    /// So many legs of the lateral together.
    Legs(usize),
    /// Tube of drip up to the emitter.
    Drip,
    /// All the height as one step.
    Height,
    /// The regulator in the head's body.
    BodyRegulator,
}

/// Said of a step beside its figures.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum WalkNote {
    /// Nothing.
    None,
    /// It comes from the readings with water running.
    FromReadings,
    /// How fast the water runs in it.
    Velocity(Speed),
    /// What a regulator does.
    State(LinkState),
    /// How high the head stands over the gauge.
    Rise(Length),
    /// Whether a body holds its set point.
    BodyHolds(bool),
}

/// A step of the pressure walk.
#[derive(Debug, Clone, PartialEq)]
pub struct WalkStep {
    /// What it is.
    pub part: WalkPart,
    /// What it costs; negative where the water gains (downhill).
    pub cost: Pressure,
    /// What is left behind it.
    pub left: Pressure,
    /// Said of it.
    pub note: WalkNote,
}

/// The links that bring a node its water, from the source on: where a loop brings it from two sides, the
/// side that brings more.
fn path_to(net: &Network, solution: &Solution, end: usize) -> Vec<usize> {
    let mut into: Vec<Option<usize>> = vec![None; net.nodes.len()];
    let brings = |l: usize| solution.links[l].flow.lpm().abs();
    for (l, link) in net.links.iter().enumerate() {
        let to = if solution.links[l].flow.lpm() < 0.0 { link.from } else { link.to };
        if into[to].is_none_or(|other| brings(other) < brings(l)) {
            into[to] = Some(l);
        }
    }
    let mut path = Vec::new();
    let mut node = end;
    while let Some(l) = into[node].filter(|_| path.len() < net.links.len()) {
        path.push(l);
        let link = &net.links[l];
        node = if link.to == node { link.from } else { link.to };
    }
    path.reverse();
    path
}

/// Every step from the source to a head: friction part by part, the height as one step.
pub(super) fn walk(
    inputs: &ZoneInputs,
    model: &ZoneModel,
    solution: &Solution,
    head: usize,
    result: &HeadResult,
) -> Vec<WalkStep> {
    let net = &model.network;
    let nozzle = |e: usize| solution.emitters[e].nozzle.kpa();
    let emitters = model.heads[head].emitters.clone();
    let lowest = emitters.min_by(|a, b| nozzle(*a).total_cmp(&nozzle(*b))).unwrap_or(0);
    let end = net.emitters[lowest].node;
    let path = path_to(net, solution, end);
    let static_pressure = inputs.point.curve.static_pressure;
    let mut steps: Vec<WalkStep> = Vec::new();
    let mut left = static_pressure;
    let mut push = |part, cost: Pressure, note| {
        left = left - cost;
        steps.push(WalkStep { part, cost, left, note });
    };
    push(WalkPart::Static, Pressure::ZERO, WalkNote::None);
    let source_drop = static_pressure - solution.pressures[net.sources[0].node];
    if source_drop.kpa() > 0.01 {
        push(WalkPart::SupplyToGauge, source_drop, WalkNote::FromReadings);
    }
    let mut laterals = (0usize, Pressure::ZERO);
    let mut drip: Option<Pressure> = None;
    let mut main = (Pressure::ZERO, Speed::ZERO);
    for (place, &link) in path.iter().enumerate() {
        let r = &solution.links[link];
        // The drop is friction: the height is taken out and shown as a step of its own.
        let friction = r.drop;
        let speed = r.velocity.map_or(WalkNote::None, WalkNote::Velocity);
        match model.steps[link] {
            Step::Chain(i) => push(WalkPart::Chain(inputs.point.chain.0[i].name.clone()), friction, speed),
            Step::Mainline => {
                main.0 = main.0 + friction;
                main.1 = main.1.max(r.velocity.map_or(Speed::ZERO, |v| Speed::from_mps(v.mps().abs())));
                // The main is one step, at its fastest, however many legs it is drawn in.
                let goes_on = path.get(place + 1).is_some_and(|l| model.steps[*l] == Step::Mainline);
                if !goes_on {
                    push(WalkPart::Mainline, main.0, WalkNote::Velocity(main.1));
                }
            }
            Step::Valve => push(WalkPart::Valve, friction, WalkNote::None),
            Step::Filter => push(WalkPart::Filter, friction, WalkNote::None),
            Step::Regulator => push(WalkPart::Regulator, friction, WalkNote::State(r.state)),
            Step::Part(i) => {
                let (part, note) = match &inputs.train[i] {
                    Stage::Preset { label, .. } => {
                        (WalkPart::Preset(label.clone()), WalkNote::State(r.state))
                    }
                    Stage::Part { label, .. } => (WalkPart::Part(label.clone()), WalkNote::None),
                    _ => continue,
                };
                push(part, friction, note);
            }
            Step::FirstLeg => push(WalkPart::FirstLeg, friction, speed),
            Step::Lateral => laterals = (laterals.0 + 1, laterals.1 + friction),
            Step::Drip(_) => drip = Some(drip.unwrap_or_default() + friction),
        }
    }
    if laterals.0 > 0 {
        push(WalkPart::Legs(laterals.0), laterals.1, WalkNote::None);
    }
    if let Some(friction) = drip {
        push(WalkPart::Drip, friction, WalkNote::None);
    }
    let rise = net.nodes[end].elevation - net.nodes[0].elevation;
    if Pressure::of_height(rise).kpa().abs() > 0.05 {
        push(WalkPart::Height, Pressure::of_height(rise), WalkNote::Rise(rise));
    }
    if let Regulation::Body { set } = inputs.regulation
        && !result.kind.is_drip()
    {
        let holds = WalkNote::BodyHolds(result.nozzle >= set * 0.9999);
        push(WalkPart::BodyRegulator, result.inlet - result.nozzle, holds);
    }
    steps
}

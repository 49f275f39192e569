use super::grow::{Builder, LaidGrid, Step, ZoneHead};
use super::inputs::{Stage, ZoneInputs};
use super::{drawn, listed};
use crate::network::{Emission, Emitter, LinkKind, Network, Node, Source};
use crate::units::{Length, Volume};

/// A zone as a network.
#[derive(Debug, Clone, PartialEq)]
pub struct ZoneModel {
    /// What the solver gets.
    pub network: Network,
    /// What each link stands for.
    pub steps: Vec<Step>,
    /// Heads in the order of the groups.
    pub heads: Vec<ZoneHead>,
    /// Drip as it is laid.
    pub grids: Vec<LaidGrid>,
    /// Links that are drawn legs, and whether they run against the way they are drawn.
    pub legs: Vec<(usize, bool)>,
    /// Node before the solenoid valve.
    pub valve_inlet: usize,
    /// Links of the zone's own regulator: one at the valve, or one at every bed.
    pub regulator_links: Vec<usize>,
    /// Node at the end of the shared chain.
    pub connection: usize,
    /// Node before the laterals.
    pub lateral_inlet: usize,
}

/// The network of a valve: source, the chain behind the readings, mainline, valve, filter,
/// regulator, laterals, heads. What is not drawn is laid as a tree; drawn pipe may close loops.
pub fn zone_model(inputs: &ZoneInputs) -> ZoneModel {
    let mut b = Builder::starting(inputs);
    b.network.name.clone_from(&inputs.valve);
    let connection = lay_chain(&mut b);
    let before = inputs.main.as_ref().map(|main| main.lay(&mut b, connection));
    let laid = lay_zone(&mut b, connection, before);
    ZoneModel {
        network: b.network,
        steps: b.steps,
        heads: b.heads,
        legs: b.legs,
        grids: b.grids,
        valve_inlet: laid.valve_inlet,
        regulator_links: b.regulators,
        connection,
        lateral_inlet: laid.lateral_inlet,
    }
}

/// What the pipes behind the shared chain hold: main to the valve, laterals, drip.
pub fn pipe_volume(inputs: &ZoneInputs) -> Volume {
    volume_of(inputs, |step| !matches!(step, Step::Chain(_)))
}

/// What the pipes behind the valve hold: what a drain that opens by itself lets out after every run. 100 m of
/// 16 mm bore: 20 L.
pub fn lateral_volume(inputs: &ZoneInputs) -> Volume {
    volume_of(inputs, |step| matches!(step, Step::FirstLeg | Step::Lateral | Step::Drip(_)))
}

fn volume_of(inputs: &ZoneInputs, counts: impl Fn(&Step) -> bool) -> Volume {
    let model = zone_model(inputs);
    let links = model.network.links.iter().zip(&model.steps);
    let behind = links.filter(|(_, step)| counts(step));
    let litres = behind.map(|(link, _)| match link.kind {
        LinkKind::Pipe { length, inside, .. } => {
            std::f64::consts::PI / 4.0 * inside.m() * inside.m() * length.m() * 1000.0
        }
        _ => 0.0,
    });
    Volume::from_litres(litres.sum())
}

/// Lays the source and the chain behind it; gives the node at its end.
pub(super) fn lay_chain(b: &mut Builder<'_>) -> usize {
    let inputs = b.inputs;
    b.network.nodes.push(Node { id: "supply".into(), elevation: Length::ZERO });
    b.network.sources.push(Source { node: 0, law: inputs.point.curve.law.clone() });
    let mut at = 0;
    for (i, part) in inputs.point.chain.0.iter().enumerate() {
        at = b.extend(at, part.link.clone(), part.rise, Step::Chain(i), part.id.clone());
    }
    at
}

/// Where the parts of a zone came to stand in a network.
pub(super) struct LaidZone {
    valve_inlet: usize,
    lateral_inlet: usize,
}

/// Lays a zone: its typed mainline from the connection, or else from where its drawn main ends; then valve,
/// filter, regulator, laterals.
pub(super) fn lay_zone(b: &mut Builder<'_>, connection: usize, drawn_main: Option<usize>) -> LaidZone {
    let inputs = b.inputs;
    let mut at = drawn_main.unwrap_or(connection);
    if let (None, Some(main)) = (drawn_main, inputs.mainline) {
        let kind = b.leg(main.bore, main.length);
        at = b.extend(at, kind, main.rise, Step::Mainline, "main".into());
    }
    let valve_inlet = at;
    let (here, at_beds) = train_parts(inputs);
    for stage in here {
        at = b.stage(at, stage);
    }
    for group in &inputs.groups {
        let mut inlet = at;
        for stage in at_beds {
            inlet = b.stage(inlet, stage);
        }
        listed::lay(b, inlet, group);
    }
    drawn::lay(b, at, at_beds);
    if let Some((flow, at_pressure)) = inputs.leak {
        b.network.emitters.push(Emitter {
            id: format!("leak {}", inputs.valve),
            node: at,
            emission: Emission::Orifice { flow, at_pressure, exponent: 0.5, regulator: None },
        });
    }
    LaidZone { valve_inlet, lateral_inlet: at }
}

/// What stands at the valve, and what stands at every bed. Heads that are no drip have no part of their own:
/// then all of it stands at the valve.
fn train_parts(inputs: &ZoneInputs) -> (&[Stage], &[Stage]) {
    let all = &inputs.train[..];
    let beds_only = inputs.drawn.iter().all(|h| h.grid.is_some());
    match all.iter().position(|s| *s == Stage::Run) {
        Some(run) if beds_only => (&all[..run], &all[run + 1..]),
        _ => (all, &[]),
    }
}

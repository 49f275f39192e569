use super::grid::LaidGrid;
use super::grow::{Builder, Step, ZoneHead};
use super::inputs::ZoneInputs;
use super::{drawn, listed};
use crate::network::{LinkKind, Network, Node, Source};
use crate::units::Length;

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
    /// Link of the zone's own regulator.
    pub regulator_link: Option<usize>,
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
        regulator_link: laid.regulator_link,
        connection,
        lateral_inlet: laid.lateral_inlet,
    }
}

/// Lays the source and the chain behind it; gives the node at its end.
pub(super) fn lay_chain(b: &mut Builder<'_>) -> usize {
    let inputs = b.inputs;
    b.network.nodes.push(Node {
        id: "supply".into(),
        elevation: Length::ZERO,
    });
    b.network.sources.push(Source {
        node: 0,
        law: inputs.point.curve.law.clone(),
    });
    let mut at = 0;
    for (i, part) in inputs.point.chain.0.iter().enumerate() {
        at = b.extend(at, part.link.clone(), part.rise, Step::Chain(i), part.id.clone());
    }
    at
}

/// Where the parts of a zone came to stand in a network.
pub(super) struct LaidZone {
    valve_inlet: usize,
    regulator_link: Option<usize>,
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
    let parts = [
        (&inputs.valve_loss, Step::Valve, "valve"),
        (&inputs.filter_loss, Step::Filter, "filter"),
    ];
    for (loss, step, name) in parts {
        if let Some(loss) = loss {
            let kind = LinkKind::Device(loss.clone());
            at = b.extend(at, kind, Length::ZERO, step, name.into());
        }
    }
    let mut regulator_link = None;
    if let Some(fitted) = &inputs.regulator {
        regulator_link = Some(b.network.links.len());
        let kind = LinkKind::Regulator {
            set: fitted.set,
            loss: fitted.model.loss.clone(),
        };
        at = b.extend(at, kind, Length::ZERO, Step::Regulator, "regulator".into());
    }
    for group in &inputs.groups {
        listed::lay(b, at, group);
    }
    drawn::lay(b, at);
    LaidZone {
        valve_inlet,
        regulator_link,
        lateral_inlet: at,
    }
}

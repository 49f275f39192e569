use super::grow::{Builder, Step, ZoneHead};
use super::inputs::ZoneInputs;
use super::{drawn, listed};
use crate::network::{LinkKind, Network, Node, Source};
use crate::plan::Regulation;
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
/// regulator, laterals, heads. What is not drawn is laid as a tree;
/// drawn pipe may close loops.
pub fn zone_model(inputs: &ZoneInputs) -> ZoneModel {
    let body = match inputs.regulation {
        Regulation::Body { set } => Some(set),
        _ => None,
    };
    let mut b = Builder {
        network: Network {
            name: inputs.valve.clone(),
            ..Network::default()
        },
        steps: Vec::new(),
        heads: Vec::new(),
        inputs,
        legs: Vec::new(),
        body,
    };
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
    let connection = at;
    if let Some(main) = &inputs.main {
        at = main.lay(&mut b, at);
    } else if let Some(main) = inputs.mainline {
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
            at = b.extend(
                at,
                LinkKind::Device(loss.clone()),
                Length::ZERO,
                step,
                name.into(),
            );
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
        listed::lay(&mut b, at, group);
    }
    drawn::lay(&mut b, at);
    ZoneModel {
        network: b.network,
        steps: b.steps,
        heads: b.heads,
        legs: b.legs,
        valve_inlet,
        regulator_link,
        connection,
        lateral_inlet: at,
    }
}

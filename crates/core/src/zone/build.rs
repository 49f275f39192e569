use super::{drawn, lateral};
use crate::catalogue::{Catalogue, KindRow, Nozzle};
use crate::network::{Emitter, Link, LinkKind, Network, Node, Source};
use crate::plan::{ChainPart, HeadRef, Plan, Regulation, Supply, Valve};
use crate::units::{Flow, Length, Pressure};
use crate::water::{CurveFault, supply_curve};

/// What a link stands for, for the pressure walk.
#[derive(Debug, Clone, PartialEq)]
pub enum Step {
    /// A part of the shared chain, by its place there.
    Chain(usize),
    /// Pipe to this valve.
    Mainline,
    /// The solenoid valve.
    Valve,
    /// Its filter.
    Filter,
    /// Its regulator.
    Regulator,
    /// From the valve to the first head or tee.
    FirstLeg,
    /// Between heads.
    Lateral,
}

/// A head of the zone, and where it is in the network. A drip row is one head with many emitters.
#[derive(Debug, Clone)]
pub struct Head<'a> {
    /// Which.
    pub head: HeadRef,
    /// Degrees.
    pub arc: u16,
    /// Its nozzle.
    pub nozzle: &'a Nozzle,
    /// Its kind.
    pub kind: &'a KindRow,
    /// First emitter in the network and how many it has.
    pub emitters: std::ops::Range<usize>,
    /// Area that it is to water, m2, from spacing and arc.
    pub area_m2: f64,
}

/// A zone as a network.
#[derive(Debug, Clone)]
pub struct ZoneModel<'a> {
    /// What the solver gets.
    pub network: Network,
    /// What each link stands for.
    pub steps: Vec<Step>,
    /// Static pressure at the place of the readings.
    pub static_pressure: Pressure,
    /// Heads in the order of the groups.
    pub heads: Vec<Head<'a>>,
    /// Link of the solenoid valve.
    pub valve_link: usize,
    /// Link of the zone's own regulator.
    pub regulator_link: Option<usize>,
    /// Node at the end of the shared chain.
    pub connection: usize,
}

/// The shared chain behind the place of the readings, with the height each part climbs.
pub fn chain_links(plan: &Plan, supply: &Supply, catalogue: &Catalogue) -> Vec<(LinkKind, Length)> {
    chain_from(supply)
        .filter_map(|i| match &supply.chain[i].part {
            ChainPart::Pipe { pipe, length, rise } => {
                let pipe = catalogue.pipe(pipe)?;
                Some((
                    pipe_kind(*length, pipe.inside, pipe.c, plan.rules.fittings),
                    *rise,
                ))
            }
            ChainPart::Meter { size } => {
                Some((LinkKind::Device(catalogue.meter(size)?.loss()), Length::ZERO))
            }
            ChainPart::Device { model } => Some((
                LinkKind::Device(catalogue.device(model)?.loss.clone()),
                Length::ZERO,
            )),
            ChainPart::Regulator { set } => {
                let loss = catalogue.regulator("reducing-valve")?.loss.clone();
                Some((LinkKind::Regulator { set: *set, loss }, Length::ZERO))
            }
        })
        .collect()
}

/// Places in the chain that the readings have not already gone through.
fn chain_from(supply: &Supply) -> std::ops::Range<usize> {
    let read = supply
        .read_after
        .as_ref()
        .and_then(|id| supply.chain.iter().position(|c| c.id == *id));
    let measured = matches!(supply.water, crate::plan::Water::Street) && read.is_some();
    (if measured { read.map_or(0, |i| i + 1) } else { 0 })..supply.chain.len()
}

/// A straight pipe; the allowance for fittings counts as length.
pub(super) fn pipe_kind(length: Length, inside: Length, roughness_c: f64, fittings: f64) -> LinkKind {
    LinkKind::Pipe {
        length: length * (1.0 + fittings),
        inside,
        roughness_c,
        minor_loss_k: 0.0,
        open: true,
    }
}

/// Grows a network along the path of the water.
pub(super) struct Builder<'a> {
    pub network: Network,
    pub steps: Vec<Step>,
    pub heads: Vec<Head<'a>>,
    pub plan: &'a Plan,
    pub catalogue: &'a Catalogue,
}

impl Builder<'_> {
    /// A new node behind `from`, `rise` above it, joined by a link. Gives the node.
    pub fn extend(&mut self, from: usize, kind: LinkKind, rise: Length, step: Step, name: String) -> usize {
        let to = self.network.nodes.len();
        let elevation = self.network.nodes[from].elevation + rise;
        self.network.nodes.push(Node {
            id: name.clone(),
            elevation,
        });
        // A pipe of no length is a joint: a millimetre keeps its friction negligible and defined.
        let kind = match kind {
            LinkKind::Pipe {
                length,
                inside,
                roughness_c,
                minor_loss_k,
                open,
            } => LinkKind::Pipe {
                length: length.max(Length::from_m(0.001)),
                inside,
                roughness_c,
                minor_loss_k,
                open,
            },
            kind => kind,
        };
        self.network.links.push(Link {
            id: format!("to-{name}"),
            from,
            to,
            kind,
        });
        self.steps.push(step);
        to
    }

    pub fn emit(
        &mut self,
        node: usize,
        name: String,
        nozzle: &Nozzle,
        kind: &KindRow,
        arc: u16,
        body: Option<Pressure>,
    ) {
        self.network.emitters.push(Emitter {
            id: name,
            node,
            emission: nozzle.emission(kind, arc, body),
        });
    }
}

/// The network of a valve: source, the chain behind the readings, mainline, valve, filter,
/// regulator, laterals, heads.
///
/// # Errors
/// [`CurveFault`] when the readings make no supply curve.
pub fn zone_model<'a>(
    plan: &'a Plan,
    valve: &'a Valve,
    catalogue: &'a Catalogue,
) -> Result<ZoneModel<'a>, CurveFault> {
    let supply = plan.supply(&valve.supply).ok_or(CurveFault::NoStatic)?;
    let curve = supply_curve(supply, plan.units)?;
    let mut b = Builder {
        network: Network {
            name: format!("{}: {}", plan.name, valve.name),
            ..Network::default()
        },
        steps: Vec::new(),
        heads: Vec::new(),
        plan,
        catalogue,
    };
    b.network.nodes.push(Node {
        id: "supply".into(),
        elevation: Length::ZERO,
    });
    b.network.sources.push(Source {
        node: 0,
        law: curve.law,
    });
    let mut at = 0;
    for (place, (kind, rise)) in chain_from(supply).zip(chain_links(plan, supply, catalogue)) {
        at = b.extend(at, kind, rise, Step::Chain(place), supply.chain[place].id.clone());
    }
    let connection = at;
    if let Some(main) = &valve.mainline
        && let Some(pipe) = catalogue.pipe(&main.pipe)
    {
        let kind = pipe_kind(main.length, pipe.inside, pipe.c, plan.rules.fittings);
        at = b.extend(at, kind, main.rise, Step::Mainline, "main".into());
    }
    let valve_link = b.network.links.len();
    if let Some(device) = catalogue.device(&valve.model) {
        at = b.extend(
            at,
            LinkKind::Device(device.loss.clone()),
            Length::ZERO,
            Step::Valve,
            "valve".into(),
        );
    }
    if let Some(device) = valve.filter.as_deref().and_then(|f| catalogue.device(f)) {
        at = b.extend(
            at,
            LinkKind::Device(device.loss.clone()),
            Length::ZERO,
            Step::Filter,
            "filter".into(),
        );
    }
    let on_valve = plan.groups.iter().flat_map(|g| {
        g.heads()
            .filter(|h| h.2 == Some(&valve.id))
            .map(move |h| (g, h.1))
    });
    let nominal: Flow = on_valve
        .filter_map(|(g, arc)| {
            Some(catalogue.nozzle(&g.nozzle)?.flow_for_arc(arc) * f64::from(g.row.map_or(1, |r| r.emitters)))
        })
        .sum();
    let mut regulator_link = None;
    if let Some((set, model)) = regulator_model(valve.regulation, nominal, catalogue) {
        regulator_link = Some(b.network.links.len());
        at = b.extend(
            at,
            LinkKind::Regulator {
                set,
                loss: model.loss.clone(),
            },
            Length::ZERO,
            Step::Regulator,
            "regulator".into(),
        );
    }
    let body = match valve.regulation {
        Regulation::Body { set } => Some(set),
        _ => None,
    };
    for group in plan.groups.iter().filter(|g| !g.is_drawn()) {
        lateral::lay(&mut b, at, group, &valve.id, body);
    }
    drawn::lay(&mut b, at, valve, body);
    Ok(ZoneModel {
        network: b.network,
        steps: b.steps,
        static_pressure: curve.static_pressure,
        heads: b.heads,
        valve_link,
        regulator_link,
        connection,
    })
}

/// The catalogue's regulator for a zone: of the preset ones that whose flow band fits best.
pub(crate) fn regulator_model(
    regulation: Regulation,
    flow: Flow,
    catalogue: &Catalogue,
) -> Option<(Pressure, &crate::catalogue::RegulatorModel)> {
    use crate::catalogue::Place;
    let (set, place) = match regulation {
        Regulation::Valve { set } => (set, Place::Valve),
        Regulation::Inline { set } => (set, Place::Inline),
        Regulation::None | Regulation::Body { .. } => return None,
    };
    let off = |m: &&crate::catalogue::RegulatorModel| {
        let (low, high) = m.flow_band;
        (low.lpm() / flow.lpm().max(1e-6)).max(flow / high)
    };
    let model = catalogue
        .regulators
        .iter()
        .filter(|m| m.place == place)
        .min_by(|a, b| off(a).total_cmp(&off(b)))?;
    Some((set, model))
}

/// Pressure that a flow leaves at the end of the shared chain, where the valves hang.
pub fn at_connection(
    plan: &Plan,
    supply: &Supply,
    catalogue: &Catalogue,
    start: Pressure,
    q: Flow,
) -> Pressure {
    let loss = |kind: &LinkKind| match kind {
        LinkKind::Pipe {
            length,
            inside,
            roughness_c,
            ..
        } => crate::network::hazen_williams(q, *length, *inside, *roughness_c),
        LinkKind::Device(loss) | LinkKind::Regulator { loss, .. } => loss.at(q),
    };
    chain_links(plan, supply, catalogue)
        .iter()
        .fold(start, |p, (kind, rise)| {
            let p = p - loss(kind) - Pressure::of_height(*rise);
            match kind {
                LinkKind::Regulator { set, .. } => p.min(*set),
                _ => p,
            }
        })
}

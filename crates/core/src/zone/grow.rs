use super::bore::Bore;
use super::inputs::{Stage, ZoneInputs};
use super::piped::LegInput;
use crate::catalogue::Nozzle;
use crate::chain::pipe;
use crate::drip::Part;
use crate::network::{Emitter, Link, LinkKind, Loss, Network, Node};
use crate::plan::HeadRef;
use crate::units::{Length, Pressure};

/// What a link stands for, for the pressure walk.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
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
    /// Another part of its assembly, by its place in [`ZoneInputs::train`].
    Part(usize),
    /// From the valve to the first head or tee.
    FirstLeg,
    /// Between heads.
    Lateral,
    /// Within drip as it is laid.
    Drip(Part),
}

/// A head of the zone, and where it is in the network. A drip row is one head with many emitters.
#[derive(Debug, Clone, PartialEq)]
pub struct ZoneHead {
    /// Which.
    pub head: HeadRef,
    /// Degrees.
    pub arc: u16,
    /// Place of its nozzle in the inputs' waterings.
    pub watering: usize,
    /// First emitter in the network and how many it has.
    pub emitters: std::ops::Range<usize>,
    /// Ground that it is to water, m2, from spacing and arc.
    pub area_m2: f64,
    /// The most that is left in what its emitters feed: they work against that.
    pub behind: Pressure,
}

/// Where a grid came to stand in the network.
#[derive(Debug, Clone, PartialEq)]
pub struct LaidGrid {
    /// Of its inlet: group and number.
    pub name: String,
    /// Its first link.
    pub first: usize,
    /// The tube of each of its links, in their order.
    pub links: Vec<usize>,
    /// The node of each of its joints.
    pub nodes: Vec<Option<usize>>,
}

/// Grows a network along the path of the water.
pub(super) struct Builder<'a> {
    pub network: Network,
    pub steps: Vec<Step>,
    pub heads: Vec<ZoneHead>,
    pub inputs: &'a ZoneInputs,
    /// Links that are drawn legs, and whether they were laid against the way they are drawn.
    pub legs: Vec<(usize, bool)>,
    /// Drip as it is laid.
    pub grids: Vec<LaidGrid>,
    /// Links of the zone's own regulator.
    pub regulators: Vec<usize>,
    /// Set point of regulated bodies.
    pub body: Option<Pressure>,
}

impl Builder<'_> {
    /// A new node behind `from`, `rise` above it, joined by a link. Gives the node.
    pub fn extend(&mut self, from: usize, kind: LinkKind, rise: Length, step: Step, name: String) -> usize {
        let to = self.network.nodes.len();
        let elevation = self.network.nodes[from].elevation + rise;
        self.network.nodes.push(Node { id: name.clone(), elevation });
        // A pipe of no length is a joint: a millimetre keeps its friction negligible and defined.
        let kind = match kind {
            LinkKind::Pipe { length, inside, roughness_c, minor_loss_k, open } => LinkKind::Pipe {
                length: length.max(Length::from_m(0.001)),
                inside,
                roughness_c,
                minor_loss_k,
                open,
            },
            kind => kind,
        };
        self.network.links.push(Link { id: format!("to-{name}"), from, to, kind });
        self.steps.push(step);
        to
    }

    /// A part of the zone's assembly behind a node; gives the node behind it.
    pub fn stage(&mut self, at: usize, stage: &Stage) -> usize {
        let inputs = self.inputs;
        let place = inputs.train.iter().position(|s| std::ptr::eq(s, stage)).unwrap_or(0);
        let regulator = |set: Pressure, loss: &Loss| LinkKind::Regulator { set, loss: loss.clone() };
        let part = match stage {
            Stage::Valve => inputs.valve_loss.clone().map(|l| (LinkKind::Device(l), Step::Valve, "valve")),
            Stage::Filter => {
                inputs.filter_loss.clone().map(|l| (LinkKind::Device(l), Step::Filter, "filter"))
            }
            Stage::Regulator => (inputs.regulator.as_ref())
                .map(|r| (regulator(r.set, &r.model.loss), Step::Regulator, "regulator")),
            Stage::Part { loss, .. } => Some((LinkKind::Device(loss.clone()), Step::Part(place), "part")),
            Stage::Preset { set, loss, .. } => Some((regulator(*set, loss), Step::Part(place), "preset")),
            Stage::Run => None,
        };
        let Some((kind, step, name)) = part else { return at };
        if step == Step::Regulator {
            self.regulators.push(self.network.links.len());
        }
        // Parts that stand once have a plain name.
        let nodes = self.network.nodes.len();
        let name = match self.network.nodes.iter().any(|n| n.id == name) || name == "part" || name == "preset"
        {
            true => format!("{name}-{nodes}"),
            false => name.to_owned(),
        };
        self.extend(at, kind, Length::ZERO, step, name)
    }

    /// A link between two nodes that are there already: it closes a loop.
    pub fn join(&mut self, from: usize, to: usize, kind: LinkKind, step: Step) {
        let id = String::new();
        self.network.links.push(Link { id, from, to, kind });
        self.steps.push(step);
    }

    /// Notes that the newest link is a leg as drawn, and calls it so.
    pub fn drawn_leg(&mut self, leg: &LegInput) {
        if let Some(link) = self.network.links.last_mut() {
            link.id.clone_from(&leg.id);
            self.legs.push((self.network.links.len() - 1, leg.reversed));
        }
    }

    /// A leg of lateral with the allowance for fittings.
    pub fn leg(&self, bore: Bore, length: Length) -> LinkKind {
        pipe(length, bore.inside, bore.c, self.inputs.fittings)
    }

    /// An emitter of a nozzle at a node, set to an arc and a throw.
    pub fn emit(
        &mut self,
        node: usize,
        id: String,
        nozzle: &Nozzle,
        watering: usize,
        set: (u16, Option<Length>),
    ) {
        let class = &self.inputs.waterings[watering].class;
        let emission = nozzle.emission(class, set, self.body.filter(|_| !class.kind.is_drip()));
        self.network.emitters.push(Emitter { id, node, emission });
    }

    /// Notes the head whose emitters were added since `start`.
    pub fn head(&mut self, head: HeadRef, arc: u16, watering: usize, start: usize, area_m2: f64) {
        let emitters = start..self.network.emitters.len();
        self.heads.push(ZoneHead { head, arc, watering, emitters, area_m2, behind: Pressure::ZERO });
    }
}

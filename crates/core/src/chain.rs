//! The parts that all valves of a point of connection share, in the order of the water, and what
//! they leave of a pressure.

use crate::catalogue::Mounting;
use crate::job::Job;
use crate::network::LinkKind;
use crate::plan::{ChainPart, Supply, WaterSource};
use crate::units::{Flow, Length, Pressure};

/// What a part of the chain is, for people.
#[derive(Debug, Clone, PartialEq)]
pub enum PartName {
    /// Up to the meter or backflow device the pipe is the supplier's line.
    ServiceLine,
    /// Behind it, the installer's.
    SharedMain,
    /// A meter by its size.
    Meter(String),
    /// A device by its id in the catalogue.
    Device(String),
    /// A reducing valve for the whole system.
    SystemRegulator,
}

/// A part of the chain, ready for the network.
#[derive(Debug, Clone, PartialEq)]
pub struct ChainStep {
    /// Its own name in the file.
    pub id: String,
    /// What it is.
    pub name: PartName,
    /// As the solver takes it.
    pub link: LinkKind,
    /// Height that it climbs.
    pub rise: Length,
}

/// The shared chain behind the place of the readings.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Chain(pub Vec<ChainStep>);

/// A straight pipe; the allowance for fittings (0.1: a tenth) counts as length.
pub fn pipe(length: Length, inside: Length, roughness_c: f64, fittings: f64) -> LinkKind {
    LinkKind::Pipe {
        length: length * (1.0 + fittings),
        inside,
        roughness_c,
        minor_loss_k: 0.0,
        open: true,
    }
}

impl Chain {
    /// The parts that the readings have not already gone through. Parts that are not in the
    /// catalogue are left out: the plan's faults name them.
    pub fn of(job: &Job, supply: &Supply) -> Self {
        let catalogue = job.catalogue();
        let step = |i: usize| {
            let item = &supply.chain[i];
            let (link, rise) = match &item.part {
                ChainPart::Pipe {
                    pipe: id,
                    length,
                    rise,
                } => {
                    let kind = catalogue.pipe(id)?;
                    (pipe(*length, kind.inside, kind.c, job.rules.fittings), *rise)
                }
                ChainPart::Meter { size } => (LinkKind::Device(catalogue.meter(size)?.loss()), Length::ZERO),
                ChainPart::Device { model } => (
                    LinkKind::Device(catalogue.device(model)?.loss.clone()),
                    Length::ZERO,
                ),
                ChainPart::Regulator { set } => {
                    let loss = catalogue.regulators_at(Mounting::Connection).next()?.loss.clone();
                    (LinkKind::Regulator { set: *set, loss }, Length::ZERO)
                }
            };
            Some(ChainStep {
                id: item.id.clone(),
                name: name(supply, i),
                link,
                rise,
            })
        };
        Self((first(supply)..supply.chain.len()).filter_map(step).collect())
    }

    /// Pressure that a flow leaves at its end, where the valves hang, of what is at its start.
    ///
    /// Friction and height of every part in turn; a system regulator lets no more through than its
    /// set point. Below zero where the flow can't get there.
    pub fn pressure_after(&self, start: Pressure, flow: Flow) -> Pressure {
        self.0.iter().fold(start, |p, step| {
            let p = p - step.link.loss_at(flow) - Pressure::of_height(step.rise);
            match step.link {
                LinkKind::Regulator { set, .. } => p.min(set),
                _ => p,
            }
        })
    }

    /// The lowest set point of its system regulators.
    pub fn regulated_to(&self) -> Option<Pressure> {
        let sets = self.0.iter().filter_map(|s| match s.link {
            LinkKind::Regulator { set, .. } => Some(set),
            _ => None,
        });
        sets.reduce(Pressure::min)
    }
}

/// Place in the chain of the first part behind the gauge. A pump's own curve holds at its outlet,
/// whatever was read elsewhere.
fn first(supply: &Supply) -> usize {
    let read = supply
        .read_after
        .as_ref()
        .and_then(|id| supply.chain.iter().position(|c| c.id == *id));
    match (&supply.water, read) {
        (WaterSource::Street, Some(i)) => i + 1,
        _ => 0,
    }
}

fn name(supply: &Supply, at: usize) -> PartName {
    match &supply.chain[at].part {
        ChainPart::Pipe { .. } => {
            let before = &supply.chain[..at];
            if before.iter().all(|c| matches!(c.part, ChainPart::Pipe { .. })) {
                PartName::ServiceLine
            } else {
                PartName::SharedMain
            }
        }
        ChainPart::Meter { size } => PartName::Meter(size.clone()),
        ChainPart::Device { model } => PartName::Device(model.clone()),
        ChainPart::Regulator { .. } => PartName::SystemRegulator,
    }
}

//! The parts that all valves of a point of connection share, in the order of the water, and what
//! they leave of a pressure.

use crate::catalogue::{Device, Mounting};
use crate::job::Job;
use crate::network::LinkKind;
use crate::plan::{ChainPart, Supply};
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
    LinkKind::Pipe { length: length * (1.0 + fittings), inside, roughness_c, minor_loss_k: 0.0, open: true }
}

impl Chain {
    /// The parts that the readings have not already gone through. Parts that are not in the
    /// catalogue are left out: the plan's faults name them.
    pub fn of(job: &Job, supply: &Supply) -> Self {
        let catalogue = job.catalogue();
        let step = |i: usize| {
            let item = &supply.chain[i];
            let (link, rise) = match &item.part {
                ChainPart::Pipe { pipe: id, length, rise } => {
                    let kind = catalogue.pipe(id)?;
                    (pipe(*length, kind.inside, kind.c, job.rules.fittings), *rise)
                }
                ChainPart::Meter { size } => (LinkKind::Device(catalogue.meter(size)?.loss()), Length::ZERO),
                ChainPart::Device { model } => {
                    (LinkKind::Device(catalogue.device(model)?.loss.clone()), Length::ZERO)
                }
                ChainPart::Regulator { set } => {
                    let loss = catalogue.regulators_at(Mounting::Connection).next()?.loss.clone();
                    (LinkKind::Regulator { set: *set, loss }, Length::ZERO)
                }
            };
            Some(ChainStep { id: item.id.clone(), name: name(supply, i), link, rise })
        };
        Self((first(supply)..supply.chain.len()).filter_map(step).collect())
    }

    /// Pressure that a flow leaves at its end, where the valves hang, of what is at its start.
    ///
    /// Friction and height of every part in turn; a system regulator lets no more through than its
    /// set point. Below zero where the flow can't get there. `flow` from zero up.
    ///
    /// # Source
    /// Hazen and Williams (1905) for pipes, AWWA C700 for meters, curves of the class for devices; 9.80665
    /// kPa a metre of height.
    pub fn pressure_after(&self, start: Pressure, flow: Flow) -> Pressure {
        self.0.iter().fold(start, |p, step| self.step(step, p, flow))
    }

    /// Pressure behind one of its parts, of what stands before it.
    pub fn step(&self, step: &ChainStep, before: Pressure, flow: Flow) -> Pressure {
        let p = before - step.link.loss_at(flow) - Pressure::of_height(step.rise);
        match step.link {
            LinkKind::Regulator { set, .. } => p.min(set),
            _ => p,
        }
    }

    /// Pressure at its end with the water standing, of what stands at its start: nothing is lost but
    /// height, and a system regulator holds its set point.
    pub fn standing_after(&self, start: Pressure) -> Pressure {
        self.0.iter().fold(start, |p, step| {
            let p = p - Pressure::of_height(step.rise);
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
    let read = supply.read_after.as_ref().and_then(|id| supply.chain.iter().position(|c| c.id == *id));
    read.filter(|_| supply.water.is_mains()).map_or(0, |i| i + 1)
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

/// A connection with a device of its chain in the smallest size that bears a flow, and what that is called; none where
/// it comes in one size, bears it already, or none does.
pub fn with_device_for(job: &Job, supply: &Supply, item: &str, flow: Flow) -> Option<(Supply, String)> {
    let at = supply.chain.iter().position(|c| c.id == item)?;
    let ChainPart::Device { model } = &supply.chain[at].part else { return None };
    let device = job.catalogue().device(model)?;
    if device.proposed_to.is_none_or(|most| !flow.exceeds(most)) {
        return None;
    }
    let family = device.family.as_ref()?;
    let sizes = job.catalogue().devices.iter().filter(|d| d.family.as_ref() == Some(family));
    let bears = |d: &&Device| d.proposed_to.is_some_and(|most| !flow.exceeds(most));
    let most = |d: &Device| d.proposed_to.unwrap_or_default().lpm();
    let next = sizes.filter(bears).min_by(|a, b| most(a).total_cmp(&most(b)))?;
    let mut changed = supply.clone();
    changed.chain[at].part = ChainPart::Device { model: next.id.clone() };
    Some((changed, next.label.clone()))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::network::hazen_williams;
    use crate::plan::{ChainItem, Plan};
    use crate::units::UnitSystem;

    fn job(parts: Vec<ChainPart>) -> Job {
        let mut plan = Plan::new("Test", UnitSystem::Us);
        plan.rules.fittings = 0.1;
        plan.supplies[0].chain = parts
            .into_iter()
            .enumerate()
            .map(|(i, part)| ChainItem { id: format!("c{}", i + 1), part })
            .collect();
        Job::new(plan)
    }
    fn line(pipe: &str, feet: f64, rise: f64) -> ChainPart {
        ChainPart::Pipe {
            pipe: pipe.parse().unwrap(),
            length: Length::from_ft(feet),
            rise: Length::from_ft(rise),
        }
    }
    fn meter() -> ChainPart {
        ChainPart::Meter { size: "3/4in".into() }
    }
    fn left(job: &Job, psi: f64, gpm: f64) -> f64 {
        let chain = Chain::of(job, &job.supplies[0]);
        chain.pressure_after(Pressure::from_psi(psi), Flow::from_gpm(gpm)).psi()
    }

    #[test]
    fn each_part_takes_what_a_hand_computes() {
        // 50 ft of 1 in copper, a tenth for fittings, 6 ft up, a 3/4 in meter, at 12 gpm.
        let job = job(vec![line("copper-l 1in", 50.0, 6.0), meter()]);
        let friction =
            hazen_williams(Flow::from_gpm(12.0), Length::from_ft(55.0), Length::from_in(1.025), 140.0);
        let by_hand = 60.0 - friction.psi() - 6.0 * 0.4335 - 15.0 * (12.0f64 / 30.0).powi(2);
        assert!((left(&job, 60.0, 12.0) - by_hand).abs() < 0.01);
        // Without flow only the height is lost.
        assert!((left(&job, 60.0, 0.0) - (60.0 - 6.0 * 0.4335)).abs() < 0.01);
    }

    #[test]
    fn parts_before_the_gauge_are_in_the_readings_already() {
        let mut plan = job(vec![line("copper-l 1in", 50.0, 0.0), meter()]).into_plan();
        plan.supplies[0].read_after = Some("c1".into());
        let job = Job::new(plan);
        assert!((left(&job, 60.0, 12.0) - (60.0 - 15.0 * (12.0f64 / 30.0).powi(2))).abs() < 1e-6);
        let chain = Chain::of(&job, &job.supplies[0]);
        assert_eq!(chain.0.iter().map(|s| s.id.as_str()).collect::<Vec<_>>(), ["c2"]);
    }

    #[test]
    fn a_system_regulator_caps_what_comes_and_adds_nothing() {
        let set = Pressure::from_psi(50.0);
        let job = job(vec![ChainPart::Regulator { set }]);
        let chain = Chain::of(&job, &job.supplies[0]);
        assert_eq!(chain.regulated_to(), Some(set));
        assert!((left(&job, 90.0, 5.0) - 50.0).abs() < 1e-9);
        assert!(left(&job, 40.0, 5.0) <= 40.0);
    }

    #[test]
    fn the_line_up_to_the_meter_is_the_suppliers_and_the_rest_is_a_shared_main() {
        let job = job(vec![line("copper-l 1in", 30.0, 0.0), meter(), line("class-200 1in", 20.0, 0.0)]);
        let names: Vec<PartName> = Chain::of(&job, &job.supplies[0]).0.into_iter().map(|s| s.name).collect();
        assert_eq!(names[0], PartName::ServiceLine);
        assert_eq!(names[2], PartName::SharedMain);
    }

    #[test]
    fn more_flow_never_leaves_more() {
        let job = job(vec![line("pvc-40 1in", 80.0, 2.0), meter()]);
        let mut last = f64::INFINITY;
        for tenths in 0..300 {
            let now = left(&job, 70.0, f64::from(tenths) / 10.0);
            assert!(now <= last + 1e-9, "at {tenths} tenths of a gpm");
            last = now;
        }
    }
}

//! Backflow: each kind of device has its place and its height. The local code decides.

use super::check::BackflowFault;
use super::{Check, Finding, Severity};
use crate::assembly::Train;
use crate::catalogue::{BackflowPlace, Device, PartRole, Role};
use crate::job::Job;
use crate::plan::{ChainPart, Supply, Valve};
use crate::units::{Flow, Length};
use crate::zone::ZoneAssessment;

/// Commonly wanted over the highest outlet, inches: of a breaker for all valves, and of one valve's own.
const OVER_ALL_IN: f64 = 12.0;
const OVER_OWN_IN: f64 = 6.0;
/// Heads that stand level with the ground at the device, to within what nobody levels.
const LEVEL: Length = Length::from_m(0.05);

/// What is wrong with the devices of a point of connection; `zones` are its zones that have figures.
pub(super) fn backflow(job: &Job, supply: &Supply, zones: &[&ZoneAssessment]) -> Vec<Finding> {
    let mut found = Vec::new();
    let own: Vec<&Valve> = job.valves.iter().filter(|v| v.supply == supply.id).collect();
    let mut protected = false;
    for (at, item) in supply.chain.iter().enumerate() {
        let ChainPart::Device { model } = &item.part else {
            continue;
        };
        let Some(device) = job.catalogue().device(model).filter(|d| d.role == Role::Backflow) else {
            continue;
        };
        // One in a wrong place is told as that, not as missing besides.
        protected = true;
        found.extend(in_chain(job, supply, at, device, &own, zones));
        found.extend(too_small(&item.id, device, zones));
    }
    let has_own = |v: &&&Valve| {
        let device = job.catalogue().device(&v.model);
        device.is_some_and(|d| d.place == Some(BackflowPlace::OwnValve))
    };
    // A breaker among the parts of a valve protects that valve.
    let breaker = |v: &&&Valve| {
        let roles = Train::of(job.catalogue(), v).members;
        roles.iter().any(|m| matches!(m.role, PartRole::Breaker | PartRole::AntiSiphon))
    };
    if !own.is_empty() && own.iter().filter(|v| has_own(v) || breaker(v)).count() == own.len() {
        protected = true;
    }
    // Where its height is known, it is checked with the parts.
    for valve in own.iter().filter(has_own).filter(|v| v.assembly.height.is_none()) {
        let highest = zones.iter().find(|z| z.valve == valve.id).map(|z| z.top_over_valve);
        if let (Some(highest), Some(device)) =
            (highest.filter(|h| *h > LEVEL), job.catalogue().device(&valve.model))
        {
            let over = Length::from_in(OVER_OWN_IN);
            found.push(misplaced(device, BackflowFault::BelowHeads { highest, over }));
        }
    }
    found.extend(injection(job, supply));
    if !protected {
        found.push(Finding::new(Severity::Stop, Check::NoBackflow {}));
    }
    found
}

/// The flow of the largest zone is past what the device is made for.
fn too_small(item: &str, device: &Device, zones: &[&ZoneAssessment]) -> Option<Finding> {
    let flow = zones.iter().map(|z| z.flow).reduce(Flow::max)?;
    let most = device.proposed_to.filter(|most| flow.exceeds(*most))?;
    let (item, loss) = (item.to_owned(), device.loss.at(flow));
    let check = Check::DeviceTooSmall { item, device: device.label.clone(), flow, most, loss };
    Some(Finding::new(Severity::Fix, check))
}

/// Chemicals want the reduced-pressure assembly, or a source that is not tied to drinking water.
fn injection(job: &Job, supply: &Supply) -> Option<Finding> {
    supply.injection?;
    if !supply.water.is_potable() {
        return None;
    }
    let models = supply.chain.iter().filter_map(|item| match &item.part {
        ChainPart::Device { model } => job.catalogue().device(model).filter(|d| d.role == Role::Backflow),
        _ => None,
    });
    let devices: Vec<&Device> = models.collect();
    let enough = devices.iter().any(|d| d.family.as_deref() == Some("reduced-pressure"));
    (!enough).then(|| {
        let device = devices.first().map(|d| d.label.clone());
        Finding::new(Severity::Stop, Check::InjectionUnprotected { device })
    })
}

fn in_chain(
    job: &Job,
    supply: &Supply,
    at: usize,
    device: &Device,
    own: &[&Valve],
    zones: &[&ZoneAssessment],
) -> Option<Finding> {
    match device.place? {
        BackflowPlace::Shared => None,
        BackflowPlace::OwnValve => Some(misplaced(device, BackflowFault::OnlyItsValve)),
        BackflowPlace::HoseBib => {
            // Behind a meter or a service line there are buried pipes: no hose bib.
            let built = supply
                .chain
                .iter()
                .any(|c| matches!(c.part, ChainPart::Meter { .. } | ChainPart::Pipe { .. }));
            (built && !own.is_empty()).then(|| misplaced(device, BackflowFault::OnlyHoseBib))
        }
        BackflowPlace::AboveHeads => {
            let after: Length = supply.chain[at..].iter().fold(Length::ZERO, |sum, c| match c.part {
                ChainPart::Pipe { rise, .. } => sum + rise,
                _ => sum,
            });
            let top = zones.iter().map(|z| z.top).reduce(Length::max);
            // Before anything can be solved the plan itself says how high the heads stand.
            let planned = || {
                let on = |v: &&Valve| v.supply == supply.id;
                let valves = job.valves.iter().filter(on);
                let top = |v: &Valve| {
                    let groups = job.groups.iter().filter(|g| g.is_on(&v.id));
                    let rise = groups.map(|g| job.rise_of(g, Some(v))).reduce(Length::max)?;
                    Some(rise + job.rise_to(v))
                };
                valves.filter_map(top).reduce(Length::max)
            };
            let highest = top.or_else(planned)? + after;
            let over = Length::from_in(OVER_ALL_IN);
            (highest > LEVEL).then(|| misplaced(device, BackflowFault::BelowHeads { highest, over }))
        }
    }
}

fn misplaced(device: &Device, why: BackflowFault) -> Finding {
    let severity = match why {
        BackflowFault::OnlyItsValve | BackflowFault::OnlyHoseBib => Severity::Stop,
        BackflowFault::BelowHeads { .. } => Severity::Fix,
    };
    let device = device.label.clone();
    Finding::new(severity, Check::BackflowPlace { device, why })
}

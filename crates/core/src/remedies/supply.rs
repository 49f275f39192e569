//! What mends a point of connection.

use super::{Action, Diagnosis, Effect, Remedy, pipe};
use crate::catalogue::Mounting;
use crate::chain::with_device_for;
use crate::findings::{Check, Finding};
use crate::job::Job;
use crate::plan::{ChainPart, Edit, Supply};
use crate::regulation::with_system_regulator;
use crate::units::{Flow, Pressure};
use crate::zone::{ZoneAssessment, zone_of};

/// Findings of a point of connection with what would mend each.
pub(super) fn supply_remedies(job: &Job, supply: &Supply, findings: &[Finding]) -> Vec<Diagnosis> {
    let remedies = |f: &Finding| match f.check {
        Check::StaticHigh { .. } => system_regulator(job, supply).into_iter().collect(),
        Check::SystemNoRoom { inlet, wanted, .. } => {
            set_system(job, supply, inlet - wanted).into_iter().collect()
        }
        Check::SystemRange { set, range } => {
            set_system(job, supply, set.max(range.0).min(range.1)).into_iter().collect()
        }
        Check::DeviceTooSmall { ref item, flow, .. } => {
            larger_device(job, supply, item, flow).into_iter().collect()
        }
        ref other => pipe::of_supply(job, supply, other).into_iter().collect(),
    };
    findings.iter().map(|f| Diagnosis { finding: f.clone(), remedies: remedies(f) }).collect()
}

/// What a change of a connection does to its valves: how many then starve; where there are none yet it caps
/// what will reach them.
fn on_all_valves(job: &Job, supply: &Supply, edit: &Edit) -> Option<Effect> {
    let (after, _) = job.apply(edit).ok()?;
    let zones: Vec<ZoneAssessment> = after
        .valves
        .iter()
        .filter(|v| v.supply == supply.id)
        .filter_map(|v| zone_of(&after, v).ok())
        .collect();
    let starved = zones.iter().filter(|z| z.starved().is_some()).count();
    Some(if zones.is_empty() { Effect::Caps } else { Effect::Starved(starved, zones.len()) })
}

/// The same system regulator set to what has its room, to a whole psi.
fn set_system(job: &Job, supply: &Supply, to: Pressure) -> Option<Remedy> {
    let set = Pressure::from_psi(to.psi().floor());
    let range = job.catalogue().regulators_at(Mounting::Connection).next()?.range?;
    if set < range.0 || set > range.1 {
        return None;
    }
    let mut changed = supply.clone();
    for item in &mut changed.chain {
        if let ChainPart::Regulator { set: old } = &mut item.part {
            *old = set;
        }
    }
    let edit = Edit::put(changed);
    let effect = on_all_valves(job, supply, &edit)?;
    Some(Remedy::new(Action::SetSystem(set), effect, edit))
}

/// A reducing valve for the building and all that stands behind it.
fn system_regulator(job: &Job, supply: &Supply) -> Option<Remedy> {
    let (changed, set) = with_system_regulator(job, supply)?;
    let edit = Edit::put(changed);
    let effect = on_all_valves(job, supply, &edit)?;
    Some(Remedy::new(Action::SystemRegulator(set), effect, edit))
}

/// The next size of a backflow device that bears a flow.
fn larger_device(job: &Job, supply: &Supply, item: &str, flow: Flow) -> Option<Remedy> {
    let (changed, label) = with_device_for(job, supply, item, flow)?;
    let edit = Edit::put(changed);
    let effect = on_all_valves(job, supply, &edit)?;
    Some(Remedy::new(Action::LargerDevice(label), effect, edit))
}

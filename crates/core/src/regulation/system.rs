//! One reducing valve for a whole connection: when it is proposed, where it stands, what it is set to.

use super::candidates::regulated;
use crate::catalogue::{Mounting, Role};
use crate::chain::ChainStep;
use crate::job::Job;
use crate::plan::{ChainItem, ChainPart, Regulation, Supply};
use crate::units::{Flow, Pressure};
use crate::water::SupplyPoint;
use crate::zone::ZoneInputs;
use std::sync::Arc;

/// Standing pressure over which a system regulator is proposed, psi.
pub(super) const SYSTEM_FROM_PSI: f64 = 100.0;
/// What it is set to over what the neediest zone wants there.
const OVER_NEED_PSI: f64 = 20.0;
/// What a zone wants at its connection where no heads are laid yet: 40 psi nozzles and 10 psi on the way.
const USUAL_NEED_PSI: f64 = 50.0;

/// Whether a connection's standing pressure asks for a system regulator, and it has none.
pub fn wants_system_regulator(job: &Job, supply: &Supply) -> bool {
    let point = SupplyPoint::of(job, supply);
    let high = point.is_ok_and(|p| p.curve.highest.psi() > SYSTEM_FROM_PSI);
    high && !supply.chain.iter().any(|c| matches!(c.part, ChainPart::Regulator { .. }))
}

/// The connection with a system regulator, and its set point: 20 psi over what the neediest of its zones wants where it
/// stands, to a whole psi. It stands before the irrigation's own backflow device, so that it protects that too and the
/// building's pipes. None where it would have no room, or is not made for that.
///
/// # Example
/// 45 psi rotors that want 52 at the connection, behind a vacuum breaker that takes 3: set 75.
pub fn with_system_regulator(job: &Job, supply: &Supply) -> Option<(Supply, Pressure)> {
    let point = Arc::new(SupplyPoint::of(job, supply).ok()?);
    let at = place(job, supply);
    let (mut need, mut flow) = (Pressure::ZERO, Flow::ZERO);
    for valve in job.valves.iter().filter(|v| v.supply == supply.id) {
        let inputs = ZoneInputs::of(job, valve, point.clone());
        let Some(zone) = regulated(job, &inputs, Regulation::None) else { continue };
        let low = zone.lowest();
        need = need.max(low.band.best + zone.at_connection - low.inlet);
        flow = flow.max(zone.nominal_flow);
    }
    if need == Pressure::ZERO {
        need = Pressure::from_psi(USUAL_NEED_PSI);
    }
    // What the rest of the chain takes behind it.
    let high = Pressure::from_psi(200.0);
    let first: Vec<&str> = supply.chain[..at].iter().map(|item| item.id.as_str()).collect();
    let (before, after): (Vec<&ChainStep>, Vec<&ChainStep>) =
        point.chain.0.iter().partition(|step| first.contains(&step.id.as_str()));
    let behind = after.iter().fold(high, |p, step| point.chain.step(step, p, flow));
    let set = Pressure::from_psi((need + (high - behind)).psi().ceil() + OVER_NEED_PSI);
    let comes = before.iter().fold(point.curve.pressure_at(flow), |p, step| point.chain.step(step, p, flow));
    let (low, most) = job.catalogue().regulators_at(Mounting::Connection).next()?.range?;
    if !comes.reaches(set + job.rules.regulator_room) || set < low || set > most {
        return None;
    }
    let mut changed = supply.clone();
    changed.chain.insert(at, ChainItem { id: job.fresh_id('c'), part: ChainPart::Regulator { set } });
    Some((changed, set))
}

/// Before the first backflow device, else at the end.
fn place(job: &Job, supply: &Supply) -> usize {
    let is_backflow = |item: &ChainItem| match &item.part {
        ChainPart::Device { model } => {
            job.catalogue().device(model).is_some_and(|d| d.role == Role::Backflow)
        }
        _ => false,
    };
    supply.chain.iter().position(is_backflow).unwrap_or(supply.chain.len())
}

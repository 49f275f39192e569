use super::backflow::backflow;
use super::store::store_small;
use super::{Check, Finding, Severity};
use crate::catalogue::{Mounting, Role};
use crate::job::Job;
use crate::network::LinkKind;
use crate::plan::{ChainPart, Supply, WaterSource};
use crate::units::{Flow, Pressure};
use crate::water::{CurveFault, CurveFrom, DesignFlow, SupplyPoint};
use crate::zone::ZoneAssessment;
use std::sync::Arc;

/// Static pressure over which plumbing codes commonly want a reducing valve, psi.
pub const CODE_LIMIT_PSI: f64 = 80.0;
/// Share of the static pressure that a reading may lie off the curve through all of them.
const SCATTER: f64 = 0.05;
/// A curve may be read to so many times the largest flow that was run.
const READ_TO: f64 = 2.0;
/// Less of a drop a gauge hardly shows, psi.
const LEAST_DROP_PSI: f64 = 3.0;
/// A drop goes with the flow to this power (Hazen-Williams), and so does an error in it.
const FLOW_EXPONENT: f64 = 1.852;
/// Flow below which there is none, gpm.
const NO_FLOW_GPM: f64 = 0.05;

/// Everything to be said of a point of connection, the worst first. `zones` are its zones with figures.
pub fn supply_findings(
    job: &Job,
    supply: &Supply,
    point: &Result<Arc<SupplyPoint>, CurveFault>,
    design: &DesignFlow,
    zones: &[&ZoneAssessment],
) -> Vec<Finding> {
    let mut found = Vec::new();
    match point {
        Err(fault) => {
            let check = Check::WaterUnknown { supply: supply.name.clone(), fault: fault.clone() };
            if supply.readings.is_empty() && supply.chain.is_empty() {
                // Nothing was done yet that could be wrong.
                return vec![Finding::new(Severity::Open, check)];
            }
            let severity = if supply.readings.is_empty() { Severity::Open } else { Severity::Stop };
            found.push(Finding::new(severity, check));
        }
        Ok(point) => {
            found.extend(of_curve(job, supply, point));
            found.extend(stretched(point, design, zones));
            found.extend(system_regulators(job, point, zones));
        }
    }
    if supply.water.is_potable() {
        found.extend(backflow(job, supply, zones));
    }
    found.extend(store_small(job, supply));
    // One zone that can't be served is told at its valve; here it is the water itself.
    let none = !design.by_zone.is_empty() && design.by_zone.iter().all(|z| z.flow.is_none());
    if none || design.flow.is_some_and(|f| f.gpm() < NO_FLOW_GPM) {
        found.push(Finding::new(Severity::Stop, Check::NoFlow { design: design.clone() }));
    }
    found.sort_by_key(|f| f.severity);
    found
}

fn of_curve(job: &Job, supply: &Supply, point: &SupplyPoint) -> Vec<Finding> {
    let mut found = Vec::new();
    let mut watch = |check| found.push(Finding::new(Severity::Watch, check));
    let curve = &point.curve;
    let static_pressure = curve.static_pressure;
    let mains = supply.water.is_mains();
    let any = |wanted: fn(&ChainPart) -> bool| supply.chain.iter().any(|c| wanted(&c.part));
    if mains && curve.highest.psi() > CODE_LIMIT_PSI && !guards_the_building(job, supply) {
        let limit = Pressure::from_psi(CODE_LIMIT_PSI);
        watch(Check::StaticHigh { static_pressure: curve.highest, limit });
    }
    if curve.residual.kpa() > SCATTER * static_pressure.kpa() {
        watch(Check::ReadingsScatter {
            residual: curve.residual,
            pairs: curve.pairs.clone(),
            from: curve.from,
            static_pressure,
        });
    }
    let pipe_or_meter = any(|p| matches!(p, ChainPart::Pipe { .. } | ChainPart::Meter { .. }));
    if curve.pairs.is_empty() && mains && !pipe_or_meter {
        let tap = supply.water == WaterSource::Tap;
        watch(Check::StaticOnly { static_pressure, tap });
    }
    found
}

/// A curve from readings holds to twice the largest flow that was run, and where the gauge dropped enough to be read.
fn stretched(point: &SupplyPoint, design: &DesignFlow, zones: &[&ZoneAssessment]) -> Option<Finding> {
    if !matches!(point.curve.from, CurveFrom::Readings { .. }) {
        return None;
    }
    let test = point.curve.tests.iter().max_by(|a, b| a.flow.lpm().total_cmp(&b.flow.lpm()))?;
    let largest = zones.iter().map(|z| z.flow).reduce(Flow::max);
    let asked = largest.or(design.flow)?;
    let share = asked / test.flow.max(Flow::from_gpm(NO_FLOW_GPM));
    let hardly = test.drop().psi() < LEAST_DROP_PSI && share > 1.0;
    if share <= READ_TO && !hardly {
        return None;
    }
    let error = Pressure::from_psi(share.powf(FLOW_EXPONENT));
    let check = Check::ReadingsStretched { run: test.flow, drop: test.drop(), asked, error };
    Some(Finding::new(Severity::Watch, check))
}

/// A reducing valve protects the building only where it stands before the irrigation's own backflow
/// device: behind that the building's pipes have branched off already.
fn guards_the_building(job: &Job, supply: &Supply) -> bool {
    let place = |wanted: &dyn Fn(&ChainPart) -> bool| supply.chain.iter().position(|c| wanted(&c.part));
    let backflow = place(&|p| match p {
        ChainPart::Device { model } => {
            job.catalogue().device(model).is_some_and(|d| d.role == Role::Backflow)
        }
        _ => false,
    });
    let regulator = place(&|p| matches!(p, ChainPart::Regulator { .. }));
    regulator.is_some_and(|r| backflow.is_none_or(|b| r < b))
}

/// System regulators: a set point that they can be set to, and their room with the largest zone running.
fn system_regulators(job: &Job, point: &SupplyPoint, zones: &[&ZoneAssessment]) -> Vec<Finding> {
    let flow = zones.iter().map(|z| z.flow).fold(Flow::ZERO, Flow::max);
    let model = job.catalogue().regulators_at(Mounting::Connection).next();
    let mut found = Vec::new();
    let mut at = point.curve.pressure_at(flow);
    for step in &point.chain.0 {
        if let LinkKind::Regulator { set, .. } = step.link {
            let wanted = job.rules.regulator_room;
            if !at.reaches(set + wanted) {
                let check = Check::SystemNoRoom { inlet: at, set, wanted };
                found.push(Finding::new(Severity::Fix, check));
            }
            if let Some(range) = model.and_then(|m| m.range)
                && !(range.0..=range.1).contains(&set)
            {
                found.push(Finding::new(Severity::Fix, Check::SystemRange { set, range }));
            }
        }
        at = point.chain.step(step, at, flow);
    }
    found
}

use super::{Check, Finding, Severity};
use crate::catalogue::Role;
use crate::job::Job;
use crate::plan::{ChainPart, Supply, WaterSource};
use crate::units::Pressure;
use crate::water::{CurveFault, DesignFlow, SupplyPoint};

/// Static pressure over which plumbing codes commonly want a reducing valve, psi.
pub const CODE_LIMIT_PSI: f64 = 80.0;
/// Share of the static pressure that a reading may lie off the curve through all of them.
const SCATTER: f64 = 0.05;
/// Flow below which there is none, gpm.
const NO_FLOW_GPM: f64 = 0.05;

/// Everything to be said of a point of connection, the worst first.
pub fn supply_findings(
    job: &Job,
    supply: &Supply,
    point: &Result<SupplyPoint, CurveFault>,
    design: &DesignFlow,
) -> Vec<Finding> {
    let mut found = Vec::new();
    match point {
        Err(fault) => {
            let check = Check::WaterUnknown {
                supply: supply.name.clone(),
                fault: fault.clone(),
            };
            found.push(Finding::new(Severity::Stop, check));
        }
        Ok(point) => found.extend(of_curve(supply, point)),
    }
    let potable = !matches!(supply.water, WaterSource::Pump { potable: false, .. });
    let protected = supply.chain.iter().any(|c| match &c.part {
        ChainPart::Device { model } => job
            .catalogue()
            .device(model)
            .is_some_and(|d| d.role == Role::Backflow),
        _ => false,
    });
    if potable && !protected {
        found.push(Finding::new(Severity::Stop, Check::NoBackflow {}));
    }
    // One zone that can't be served is told at its valve; here it is the water itself.
    let none = !design.by_zone.is_empty() && design.by_zone.iter().all(|z| z.flow.is_none());
    if none || design.flow.is_some_and(|f| f.gpm() < NO_FLOW_GPM) {
        found.push(Finding::new(
            Severity::Stop,
            Check::NoFlow {
                design: design.clone(),
            },
        ));
    }
    found.sort_by_key(|f| f.severity);
    found
}

fn of_curve(supply: &Supply, point: &SupplyPoint) -> Vec<Finding> {
    let mut found = Vec::new();
    let mut watch = |check| found.push(Finding::new(Severity::Watch, check));
    let curve = &point.curve;
    let static_pressure = curve.static_pressure;
    let street = supply.water == WaterSource::Street;
    let any = |wanted: fn(&ChainPart) -> bool| supply.chain.iter().any(|c| wanted(&c.part));
    if street && static_pressure.psi() > CODE_LIMIT_PSI && !any(|p| matches!(p, ChainPart::Regulator { .. }))
    {
        let limit = Pressure::from_psi(CODE_LIMIT_PSI);
        watch(Check::StaticHigh {
            static_pressure,
            limit,
        });
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
    if curve.pairs.is_empty() && street && !pipe_or_meter {
        watch(Check::StaticOnly { static_pressure });
    }
    found
}

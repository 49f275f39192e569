use super::{Finding, Remedy, Severity};
use crate::catalogue::{Catalogue, Role};
use crate::plan::{ChainItem, ChainPart, Edit, Plan, Supply, Water};
use crate::units::Pressure;
use crate::water::{CurveFault, DesignFlow, SupplyCurve};
use crate::working::Working;

/// Static pressure over which plumbing codes commonly want a reducing valve, psi.
const CODE_LIMIT_PSI: f64 = 80.0;

/// Everything to be said of a point of connection.
pub(crate) fn supply_findings(
    plan: &Plan,
    supply: &Supply,
    curve: &Result<SupplyCurve, CurveFault>,
    design: &DesignFlow,
    catalogue: &Catalogue,
) -> Vec<Finding> {
    let units = plan.units;
    let mut found = Vec::new();
    match curve {
        Err(fault) => found.push(Finding {
            code: "water-unknown",
            severity: Severity::Stop,
            title: "Water not known yet".into(),
            text: format!("{}: {fault}.", supply.name),
            working: Working::new("p = p₀ − K·q^1.852", "flow-test form").gives("no curve"),
            remedies: Vec::new(),
        }),
        Ok(curve) => {
            let p0 = curve.static_pressure;
            let system = supply
                .chain
                .iter()
                .any(|c| matches!(c.part, ChainPart::Regulator { .. }));
            if supply.water == Water::Street && p0.psi() > CODE_LIMIT_PSI && !system {
                found.push(Finding {
                    code: "static-high",
                    severity: Severity::Watch,
                    title: format!(
                        "Static over {}",
                        Pressure::from_psi(CODE_LIMIT_PSI).show_round(units)
                    ),
                    text: format!(
                        "{} static: plumbing codes commonly want a reducing valve on the building's supply \
                            over {}. Ask the local code.",
                        p0.show(units),
                        Pressure::from_psi(CODE_LIMIT_PSI).show_round(units)
                    ),
                    working: Working::new("static against the usual code limit", "local code to check")
                        .with("static", p0.show(units))
                        .gives("over"),
                    remedies: system_regulator(plan, supply, catalogue).into_iter().collect(),
                });
            }
            if curve.residual.kpa() > 0.05 * p0.kpa() {
                found.push(Finding {
                    code: "readings-scatter",
                    severity: Severity::Watch,
                    title: "Readings don't agree".into(),
                    text: format!(
                        "One reading is {} off the curve through all of them: read again at one \
                        place and hour.",
                        curve.residual.show(units)
                    ),
                    working: curve.working.clone(),
                    remedies: Vec::new(),
                });
            }
            if curve.pairs.is_empty()
                && supply.water == Water::Street
                && !supply
                    .chain
                    .iter()
                    .any(|c| matches!(c.part, ChainPart::Pipe { .. } | ChainPart::Meter { .. }))
            {
                found.push(Finding {
                    code: "static-only",
                    severity: Severity::Watch,
                    title: "Static alone".into(),
                    text: "With water running, meter and pipe eat 20 psi (1.4 bar) and more: read pressure \
                        at a known flow, or add service line and meter to the chain."
                        .into(),
                    working: curve.working.clone(),
                    remedies: Vec::new(),
                });
            }
        }
    }
    let potable = match &supply.water {
        Water::Street => true,
        Water::Pump { potable, .. } => *potable,
        Water::Well { .. } => true,
    };
    let protected = supply.chain.iter().any(|c| match &c.part {
        ChainPart::Device { model } => catalogue.device(model).is_some_and(|d| d.role == Role::Backflow),
        _ => false,
    });
    if potable && !protected {
        found.push(Finding {
            code: "no-backflow",
            severity: Severity::Stop,
            title: "No backflow protection in the chain".into(),
            text: "Every connection to drinking water needs the device that the local code names, at the \
                height it names, tested by a certified person."
                .into(),
            working: Working::new("a backflow device upstream of all valves", "local code to check")
                .gives("missing"),
            remedies: Vec::new(),
        });
    }
    if design.flow.is_some_and(|f| f.gpm() < 0.05) {
        found.push(Finding {
            code: "no-flow",
            severity: Severity::Stop,
            title: "The heads want more than the water gives".into(),
            text: "At the pressure that the neediest zone wants no flow is left: lower-pressure heads, \
                drip, or a booster pump."
                .into(),
            working: design.working.clone(),
            remedies: Vec::new(),
        });
    }
    found.sort_by_key(|f| f.severity);
    found
}

fn system_regulator(plan: &Plan, supply: &Supply, catalogue: &Catalogue) -> Option<Remedy> {
    let set = Pressure::from_psi(70.0);
    let mut changed = supply.clone();
    changed.chain.push(ChainItem {
        id: plan.fresh_id('c'),
        part: ChainPart::Regulator { set },
    });
    let edit = Edit::PutSupply {
        supply: changed,
        at: None,
    };
    let (after, _) = crate::plan::apply(plan, &edit, catalogue).ok()?;
    let zones: Vec<_> = after
        .valves
        .iter()
        .filter(|v| v.supply == supply.id)
        .filter_map(|v| crate::zone::assess_zone(&after, v, catalogue).ok())
        .collect();
    let starved = zones
        .iter()
        .filter(|z| z.lowest().nozzle < z.lowest().band.1)
        .count();
    let effect = if zones.is_empty() {
        "caps what reaches the valves".to_owned()
    } else {
        format!("{starved} of {} zones then below their band", zones.len())
    };
    Some(Remedy {
        label: format!("System regulator, set {}", set.show_round(plan.units)),
        effect,
        edit,
    })
}

//! An assessment is a pure function of a plan: what the screens show. It is recomputed zone by
//! zone, only where inputs changed.

use crate::catalogue::Catalogue;
use crate::findings::{Finding, Severity, supply_findings, zone_findings};
use crate::network::LinkKind;
use crate::plan::{HeadGroup, Plan, Supply, Valve};
use crate::units::{Flow, Length, Pressure};
use crate::water::{CurveFault, DesignFlow, SupplyCurve, Want, design_flow, supply_curve};
use crate::zone::{ZoneAssessment, ZoneFault, assess_zone};
use crate::zoning::{Bound, lower_bound};

/// What is known of a point of connection.
#[derive(Debug, Clone, PartialEq)]
pub struct SupplyAssessment {
    /// Its id.
    pub id: String,
    /// Its curve, or why there is none.
    pub curve: Result<SupplyCurve, CurveFault>,
    /// Design flow by school.
    pub design: DesignFlow,
    /// Checks.
    pub findings: Vec<Finding>,
}

/// What is known of a valve.
#[derive(Debug, Clone, PartialEq)]
pub struct ZoneReport {
    /// Valve id.
    pub valve: String,
    /// The figures, or why there are none.
    pub zone: Result<ZoneAssessment, ZoneFault>,
    /// Checks, the worst first.
    pub findings: Vec<Finding>,
}

/// All of a job.
#[derive(Debug, Clone, PartialEq)]
pub struct Assessment {
    /// By point of connection, in the plan's order.
    pub supplies: Vec<SupplyAssessment>,
    /// By valve, in the plan's order.
    pub zones: Vec<ZoneReport>,
    /// Heads on no valve.
    pub unassigned: usize,
    /// The least number of valves.
    pub bound: Bound,
}

impl Assessment {
    /// The report of a valve.
    pub fn zone(&self, valve: &str) -> Option<&ZoneReport> {
        self.zones.iter().find(|z| z.valve == valve)
    }
    /// What is known of a point of connection.
    pub fn supply(&self, id: &str) -> Option<&SupplyAssessment> {
        self.supplies.iter().find(|s| s.id == id)
    }
    /// Number of findings of a severity.
    pub fn count(&self, severity: Severity) -> usize {
        self.zones
            .iter()
            .flat_map(|z| &z.findings)
            .chain(self.supplies.iter().flat_map(|s| &s.findings))
            .filter(|f| f.severity == severity)
            .count()
    }
    /// Design flows by point of connection, for proposals.
    pub fn design_flows(&self) -> Vec<(String, Option<Flow>)> {
        self.supplies
            .iter()
            .map(|s| (s.id.clone(), s.design.flow))
            .collect()
    }
}

/// Assesses a plan from scratch.
pub fn assess(plan: &Plan, catalogue: &Catalogue) -> Assessment {
    assess_after(plan, None, catalogue)
}

/// Assesses a plan, keeping the zones of an earlier one whose inputs are the same.
pub fn assess_after(plan: &Plan, before: Option<(&Plan, &Assessment)>, catalogue: &Catalogue) -> Assessment {
    let catalogue = plan.with_own(catalogue);
    let supplies: Vec<SupplyAssessment> = plan
        .supplies
        .iter()
        .map(|supply| {
            let curve = supply_curve(supply, plan.units);
            let design = design_flow(plan, supply, &wants(plan, supply, catalogue), catalogue);
            let findings = supply_findings(plan, supply, &curve, &design, catalogue);
            SupplyAssessment {
                id: supply.id.clone(),
                curve,
                design,
                findings,
            }
        })
        .collect();
    let design_of = |supplies: &[SupplyAssessment], id: &str| {
        supplies.iter().find(|s| s.id == id).and_then(|s| s.design.flow)
    };
    let zones = plan
        .valves
        .iter()
        .map(|valve| {
            let design = design_of(&supplies, &valve.supply);
            let kept = before.and_then(|(old_plan, old)| {
                let same =
                    same_inputs(plan, old_plan, valve) && design_of(&old.supplies, &valve.supply) == design;
                same.then(|| old.zone(&valve.id)).flatten()
            });
            kept.cloned().unwrap_or_else(|| {
                let zone = assess_zone(plan, valve, catalogue);
                let findings = zone.as_ref().map_or_else(
                    |_| Vec::new(),
                    |z| zone_findings(plan, valve, z, design, catalogue),
                );
                ZoneReport {
                    valve: valve.id.clone(),
                    zone,
                    findings,
                }
            })
        })
        .collect();
    let design = supplies
        .iter()
        .filter_map(|s| s.design.flow)
        .max_by(|a, b| a.lpm().total_cmp(&b.lpm()));
    Assessment {
        zones,
        unassigned: plan.unassigned().len(),
        bound: lower_bound(plan, design, catalogue),
        supplies,
    }
}

/// True if nothing that a zone's figures and findings rest on differs between two plans. Remedies
/// insert valves beside their own, so its place counts too.
fn same_inputs(plan: &Plan, old: &Plan, valve: &Valve) -> bool {
    fn on<'p>(p: &'p Plan, valve: &Valve) -> Vec<&'p HeadGroup> {
        p.groups.iter().filter(|g| g.is_on(&valve.id)).collect()
    }
    let (mine, theirs) = (on(plan, valve), on(old, valve));
    old.valve(&valve.id) == Some(valve)
        && plan.units == old.units
        && plan.rules == old.rules
        && plan.nozzles == old.nozzles
        && plan.supply(&valve.supply) == old.supply(&valve.supply)
        && plan
            .valves
            .iter()
            .map(|v| &v.id)
            .eq(old.valves.iter().map(|v| &v.id))
        && mine == theirs
        && (!mine.iter().any(|g| g.is_drawn()) || same_ground(plan, old, valve, &mine))
}

/// Drawn heads rest on the ground too: where the valve stands, heights, the areas they water and
/// who shares them.
fn same_ground(plan: &Plan, old: &Plan, valve: &Valve, groups: &[&HeadGroup]) -> bool {
    let areas = |p: &Plan| -> Vec<Option<f64>> {
        groups
            .iter()
            .map(|g| p.site.area(g.area.as_deref()?).map(|a| a.shape.area_m2()))
            .collect()
    };
    fn sharing<'p>(p: &'p Plan, groups: &[&HeadGroup]) -> Vec<&'p HeadGroup> {
        p.groups
            .iter()
            .filter(|g| g.area.is_some() && groups.iter().any(|mine| mine.area == g.area))
            .collect()
    }
    plan.valve_point(valve) == old.valve_point(valve)
        && plan.site.heights() == old.site.heights()
        && areas(plan) == areas(old)
        && sharing(plan, groups) == sharing(old, groups)
}

/// What each zone of a supply wants at its connection; before there are valves, each group.
fn wants(plan: &Plan, supply: &Supply, catalogue: &Catalogue) -> Vec<Want> {
    let of = |name: &str, valve: Option<&Valve>, groups: &[&HeadGroup]| -> Option<Want> {
        let nominal = groups
            .iter()
            .filter_map(|g| Some(catalogue.kind(catalogue.nozzle(&g.nozzle)?.kind).nominal))
            .reduce(Pressure::max)?;
        let main = valve.and_then(|v| v.mainline.as_ref());
        let rise = groups
            .iter()
            .map(|g| plan.rise_of(g, valve))
            .reduce(Length::max)?
            + main.map_or(Length::ZERO, |m| m.rise);
        let mut links = Vec::new();
        if let Some(main) = main
            && let Some(pipe) = catalogue.pipe(&main.pipe)
        {
            let length = main.length * (1.0 + plan.rules.fittings);
            links.push(LinkKind::Pipe {
                length,
                inside: pipe.inside,
                roughness_c: pipe.c,
                minor_loss_k: 0.0,
                open: true,
            });
        }
        let parts = [valve.map_or("valve-1in", |v| &v.model)]
            .into_iter()
            .chain(valve.and_then(|v| v.filter.as_deref()));
        links.extend(parts.filter_map(|id| Some(LinkKind::Device(catalogue.device(id)?.loss.clone()))));
        Some(Want::of_heads(
            name.to_owned(),
            nominal,
            rise,
            plan.rules.spread,
            plan.units,
            links,
        ))
    };
    let mut wants: Vec<Want> = plan
        .valves
        .iter()
        .filter(|v| v.supply == supply.id)
        .filter_map(|v| {
            let groups: Vec<&HeadGroup> = plan.groups.iter().filter(|g| g.is_on(&v.id)).collect();
            let drip = groups
                .iter()
                .all(|g| catalogue.nozzle(&g.nozzle).is_some_and(|n| n.kind.is_drip()));
            // Drip takes little flow: it does not limit how much a sprinkler valve may take.
            (!drip)
                .then(|| {
                    of(
                        &format!("valve {} ({})", plan.valve_number(&v.id), v.name),
                        Some(v),
                        &groups,
                    )
                })
                .flatten()
        })
        .collect();
    if wants.is_empty() && plan.supplies.len() == 1 {
        wants = plan
            .groups
            .iter()
            .filter_map(|g| of(&g.name, None, &[g]))
            .collect();
    }
    wants
}

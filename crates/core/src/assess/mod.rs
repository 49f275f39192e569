//! An assessment is a pure function of a job: what the screens show. A zone whose inputs are those
//! of an earlier assessment keeps its figures.

mod areas;
mod drip;
mod pipes;

pub use areas::{AreaReport, area_report, area_reports};
pub use drip::{DripReport, drip_report};
pub use pipes::{PipeReport, PipesReport, pipes_report};

use crate::coverage::SolvedHeads;
use crate::findings::{Check, Finding, Severity, piping_findings, supply_findings, zone_findings};
use crate::job::Job;
use crate::layout::Available;
use crate::plan::Valve;
use crate::units::Flow;
use crate::water::{CurveFault, DesignFlow, SupplyPoint, demands, design_flow};
use crate::zone::{ZoneAssessment, ZoneFault, ZoneInputs, assess_flushed, own_cost};
use crate::zoning::{Bound, LaterArea, Water, later_areas, lower_bound};
use std::sync::Arc;

/// What is known of a point of connection.
#[derive(Debug, Clone, PartialEq)]
pub struct SupplyAssessment {
    /// Its id.
    pub id: String,
    /// Its curve and chain, or why there is no curve.
    pub point: Result<Arc<SupplyPoint>, CurveFault>,
    /// Design flow by method.
    pub design: DesignFlow,
    /// Checks, the worst first.
    pub findings: Vec<Finding>,
}

/// What is known of a valve.
#[derive(Debug, Clone, PartialEq)]
pub struct ZoneReport {
    /// Valve id.
    pub valve: String,
    /// What the figures rest on; none where the water is not known.
    pub inputs: Option<Arc<ZoneInputs>>,
    /// The figures, or why there are none.
    pub zone: Result<Arc<ZoneAssessment>, ZoneFault>,
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
    /// What is kept back for areas that come later, by what the best connection lets one valve take.
    pub fn later(&self, job: &Job) -> Vec<LaterArea> {
        let most = self.supplies.iter().filter_map(|s| s.design.for_new_valve());
        later_areas(job, most.reduce(Flow::max))
    }
    /// The water of each point of connection, for proposals.
    pub fn water(&self) -> Vec<Water> {
        water_of(&self.supplies)
    }
    /// The point of connection that may give most.
    pub fn available(&self) -> Available {
        let known = self.supplies.iter().filter_map(|s| Some((s, s.design.for_new_valve()?)));
        let Some((best, flow)) = known.max_by(|a, b| a.1.lpm().total_cmp(&b.1.lpm())) else {
            return Available::default();
        };
        let left = best.point.as_ref().ok().map(|p| p.at_connection(flow));
        Available { flow: Some(flow), left }
    }
    /// Every head whose valve has figures.
    pub fn solved_heads(&self) -> SolvedHeads {
        let zones = self.zones.iter().filter_map(|z| z.zone.as_ref().ok());
        zones.flat_map(|z| z.heads.iter().map(|h| (h.head.clone(), (h.nozzle, h.flow)))).collect()
    }
}

/// Assesses a job from scratch.
pub fn assess(job: &Job) -> Assessment {
    assess_after(job, None)
}

/// Assesses a job, keeping the figures of an earlier assessment's zones whose inputs are the same.
pub fn assess_after(job: &Job, before: Option<&Assessment>) -> Assessment {
    type Point = Result<Arc<SupplyPoint>, CurveFault>;
    let points: Vec<Point> = job.supplies.iter().map(|s| SupplyPoint::of(job, s).map(Arc::new)).collect();
    let point_of = |supply: &str| {
        let at = job.supplies.iter().position(|s| s.id == supply);
        at.map_or(Err(CurveFault::NoStatic), |i| points[i].clone())
    };
    // Zones first: what a zone may take rests on what its own piping costs.
    let mut zones: Vec<ZoneReport> =
        job.valves.iter().map(|valve| solve_valve(job, valve, point_of(&valve.supply), before)).collect();
    let solved = |valve: &str| {
        let report = zones.iter().find(|z| z.valve == valve)?;
        Some(own_cost(report.inputs.as_ref()?, report.zone.as_ref().ok()?))
    };
    let mut supplies: Vec<SupplyAssessment> = job
        .supplies
        .iter()
        .zip(&points)
        .map(|(supply, point)| SupplyAssessment {
            id: supply.id.clone(),
            design: design_flow(job, supply, point, &demands(job, supply, solved)),
            point: point.clone(),
            findings: Vec::new(),
        })
        .collect();
    for (supply, known) in job.supplies.iter().zip(&mut supplies) {
        let on = |z: &&ZoneReport| job.valve(&z.valve).is_some_and(|v| v.supply == supply.id);
        let zones: Vec<&ZoneAssessment> =
            zones.iter().filter(on).filter_map(|z| z.zone.as_deref().ok()).collect();
        known.findings = supply_findings(job, supply, &known.point, &known.design, &zones);
    }
    for (valve, report) in job.valves.iter().zip(&mut zones) {
        let design = supplies.iter().find(|s| s.id == valve.supply).map(|s| &s.design);
        if let (Some(design), Some(inputs), Ok(zone)) = (design, &report.inputs, &report.zone) {
            report.findings = zone_findings(job, valve, inputs, zone, design);
        }
    }
    if let Some(first) = supplies.first_mut() {
        first.findings.extend(too_few_stations(job, &first.design));
    }
    for (of, finding) in piping_findings(job) {
        let own = zones.iter_mut().find(|z| z.valve == of).map(|z| &mut z.findings);
        let main = supplies.iter_mut().find(|s| s.id == of).map(|s| &mut s.findings);
        if let Some(list) = own.or(main) {
            list.push(finding);
            list.sort_by_key(|f| f.severity);
        }
    }
    Assessment {
        bound: lower_bound(job, &water_of(&supplies)),
        zones,
        unassigned: job.unassigned().len(),
        supplies,
    }
}

/// More valves, with those of areas that come later, than the controller has stations.
fn too_few_stations(job: &Job, design: &DesignFlow) -> Option<Finding> {
    let stations = job.controller_stations?;
    let later: usize = later_areas(job, design.for_new_valve()).iter().map(|l| l.stations).sum();
    let valves = job.valves.len() + later;
    let check = Check::TooFewStations { valves, stations };
    (valves > stations as usize).then(|| Finding::new(Severity::Fix, check))
}

fn water_of(supplies: &[SupplyAssessment]) -> Vec<Water> {
    supplies
        .iter()
        .map(|s| Water {
            supply: s.id.clone(),
            limit: s.design.limit(),
            point: s.point.as_ref().ok().cloned(),
        })
        .collect()
}

fn solve_valve(
    job: &Job,
    valve: &Valve,
    point: Result<Arc<SupplyPoint>, CurveFault>,
    before: Option<&Assessment>,
) -> ZoneReport {
    let (inputs, zone) = match point {
        Err(fault) => (None, Err(ZoneFault::Water(fault))),
        Ok(point) => {
            let inputs = ZoneInputs::of(job, valve, point);
            let kept =
                before.and_then(|b| b.zone(&valve.id)).filter(|b| b.inputs.as_deref() == Some(&inputs));
            match kept {
                Some(kept) => (kept.inputs.clone(), kept.zone.clone()),
                None => {
                    let zone = assess_flushed(&inputs).map(Arc::new);
                    (Some(Arc::new(inputs)), zone)
                }
            }
        }
    };
    ZoneReport { valve: valve.id.clone(), inputs, zone, findings: Vec::new() }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::plan::tests::{group, valve};
    use crate::plan::{Edit, HeadGroup, Plan};
    use crate::units::Length;
    use crate::zone::tests::plan;

    /// Sprays on the first valve, rotors on the second, a loose group, two connections.
    fn site() -> Plan {
        let mut p = plan(60.0, "spray-12", &[(180, 6)]);
        let mut rotors = group("g2", "rotor-2", &[(180, 3)]);
        rotors.listed[0].valve = Some("v2".into());
        p.groups.push(rotors);
        p.groups.push(group("g3", "rotator-20", &[(90, 2)]));
        p.valves.push(valve("v2"));
        let mut second = p.supplies[0].clone();
        second.id = "s2".into();
        second.readings.clear();
        p.supplies.push(second);
        p
    }

    #[test]
    fn every_valve_and_connection_is_reported_and_loose_heads_are_counted() {
        let p = site();
        let known = assess(&Job::of(&p));
        assert_eq!((known.zones.len(), known.supplies.len(), known.unassigned), (2, 2, 2));
        assert!(known.zone("v2").is_some() && known.zone("v9").is_none());
        assert!(known.supply("s2").is_some_and(|s| s.point.is_err()), "nothing was read there");
        let heads = known.solved_heads();
        assert_eq!(heads.len(), 9, "loose heads have no figures");
        let water: Vec<String> = known.water().into_iter().map(|w| w.supply).collect();
        assert_eq!(water, ["s1", "s2"]);
    }

    #[test]
    fn what_is_available_is_the_best_connection_at_its_own_flow() {
        let mut p = site();
        p.supplies[0].chain.push(crate::plan::ChainItem {
            id: "c1".into(),
            part: crate::plan::ChainPart::Meter { size: "3/4in".into() },
        });
        let known = assess(&Job::of(&p));
        let available = known.available();
        let supply = &known.supplies[0];
        assert_eq!(available.flow, supply.design.flow);
        let (flow, left) = (available.flow.unwrap(), available.left.unwrap());
        // A 3/4 in meter: 15 psi at 30 gpm, with the square of the flow.
        let by_hand = 60.0 - 15.0 * (flow.gpm() / 30.0).powi(2);
        let curve = supply.point.as_ref().unwrap();
        assert!((left - curve.at_connection(flow)).psi().abs() < 1e-9);
        assert!((left.psi() - by_hand).abs() < 0.05, "{left:?}, by hand {by_hand}");
        (p.supplies[0].readings, p.supplies[0].chain) = Default::default();
        assert_eq!(assess(&Job::of(&p)).available(), Available::default(), "nothing is known");
    }

    #[test]
    fn only_the_zones_whose_inputs_changed_are_computed_anew() {
        let job = Job::of(&site());
        let before = assess(&job);
        let rotors = HeadGroup { rise: Length::from_ft(3.0), ..job.groups[1].clone() };
        let (next, _) = job.apply(&Edit::put(rotors)).unwrap();
        let after = assess_after(&next, Some(&before));
        assert_eq!(after.zones[0], before.zones[0], "the sprays are as they were");
        assert_ne!(after.zones[1], before.zones[1], "the rotors stand higher");
        assert_eq!(after, assess(&next));
    }

    #[test]
    fn a_name_or_a_place_changes_no_figure() {
        let job = Job::of(&site());
        let before = assess(&job);
        let renamed = HeadGroup { name: "Another name".into(), ..job.groups[0].clone() };
        let (next, _) = job.apply(&Edit::put(renamed)).unwrap();
        let zone = |a: &Assessment| a.zones[0].zone.clone().unwrap();
        assert_eq!(zone(&assess(&next)), zone(&before));
    }
}

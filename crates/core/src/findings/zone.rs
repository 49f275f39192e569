use super::{Check, Finding, Severity};
use crate::catalogue::Kind;
use crate::job::Job;
use crate::plan::{DripSchool, HeadGroup, Regulation, Valve, WaterSource};
use crate::regulation::OVER_NOMINAL;
use crate::units::Flow;
use crate::zone::ZoneAssessment;
use crate::zoning::{Weight, reasons_apart};

/// Everything to be said of a zone, the worst first.
pub fn zone_findings(job: &Job, valve: &Valve, zone: &ZoneAssessment, design: Option<Flow>) -> Vec<Finding> {
    let check = Checker { job, valve, zone };
    let mut all: Vec<Finding> = [
        check.starved(),
        check.too_high(),
        check.over_design_flow(design),
        check.spread(),
        check.velocity(),
        check.no_room(),
        check.outside_band(),
        check.below_valve_minimum(),
        check.drip_filter(),
        check.drip_regulator(),
        check.drip_rating(),
    ]
    .into_iter()
    .flatten()
    .chain(check.mixed())
    .collect();
    all.sort_by_key(|f| f.severity);
    all
}

struct Checker<'a> {
    job: &'a Job,
    valve: &'a Valve,
    zone: &'a ZoneAssessment,
}

impl Checker<'_> {
    fn groups(&self) -> impl Iterator<Item = &HeadGroup> {
        self.job.groups.iter().filter(|g| g.is_on(&self.valve.id))
    }

    /// Any head on the valve is of a kind.
    fn any(&self, wanted: fn(Kind) -> bool) -> bool {
        self.groups()
            .filter_map(|g| self.job.catalogue().nozzle(&g.nozzle))
            .any(|n| wanted(n.kind))
    }

    fn drip(&self) -> bool {
        self.any(Kind::is_drip)
    }

    fn starved(&self) -> Option<Finding> {
        let low = self.zone.lowest();
        (low.nozzle < low.band.least).then(|| {
            let check = Check::HeadStarved {
                arrives: low.nozzle,
                inlet: low.inlet,
                band: low.band,
                before_lateral: self.zone.lateral_inlet,
            };
            Finding::new(Severity::Stop, check)
        })
    }

    fn too_high(&self) -> Option<Finding> {
        let high = self.zone.highest();
        if self.drip() || high.nozzle <= high.band.best * (1.0 + OVER_NOMINAL) {
            return None;
        }
        let severity = if high.nozzle > high.band.most {
            Severity::Fix
        } else {
            Severity::Watch
        };
        let check = Check::PressureHigh {
            highest: high.nozzle,
            band: high.band,
            flow: self.zone.flow,
            nominal_flow: self.zone.nominal_flow,
            bubbler: self.any(|k| k == Kind::Bubbler),
        };
        Some(Finding::new(severity, check))
    }

    fn over_design_flow(&self, design: Option<Flow>) -> Option<Finding> {
        let (design, flow) = (design?, self.zone.flow);
        let heads = self.zone.heads.len();
        let check = Check::FlowOverDesign { heads, flow, design };
        (flow > design * 1.000_001).then(|| Finding::new(Severity::Fix, check))
    }

    fn spread(&self) -> Option<Finding> {
        let limit = self.job.rules.spread;
        let (low, high) = (self.zone.lowest(), self.zone.highest());
        if self.drip() || self.zone.spread <= limit || low.nozzle < low.band.least {
            return None;
        }
        let check = Check::Spread {
            lowest: low.nozzle,
            highest: high.nozzle,
            nominal: low.band.best,
            spread: self.zone.spread,
            limit,
        };
        Some(Finding::new(Severity::Watch, check))
    }

    fn velocity(&self) -> Option<Finding> {
        let (watch, stop) = (self.job.rules.velocity_watch, self.job.rules.velocity_stop);
        let velocity = self.zone.velocity;
        if velocity <= watch {
            return None;
        }
        let first_leg = self.zone.fastest_first_leg;
        let check = Check::Velocity {
            velocity,
            watch,
            stop,
            first_leg,
            flow: self.zone.flow,
        };
        let severity = if velocity > stop {
            Severity::Stop
        } else {
            Severity::Watch
        };
        Some(Finding::new(severity, check))
    }

    fn no_room(&self) -> Option<Finding> {
        let r = self.zone.regulator.as_ref()?;
        let wanted = self.job.rules.regulator_room;
        (r.room < wanted).then(|| {
            let check = Check::NoRoom {
                part: r.part.clone(),
                inlet: r.inlet,
                set: r.set,
                wanted,
                room: r.room,
            };
            Finding::new(Severity::Fix, check)
        })
    }

    fn outside_band(&self) -> Option<Finding> {
        let r = self.zone.regulator.as_ref()?;
        let (least, most) = r.flow_band?;
        let flow = self.zone.flow;
        let check = Check::RegulatorFlow {
            part: r.part.clone(),
            flow,
            least,
            most,
        };
        (!(least..=most).contains(&flow)).then(|| Finding::new(Severity::Watch, check))
    }

    fn below_valve_minimum(&self) -> Option<Finding> {
        let model = self.job.catalogue().device(&self.valve.model)?;
        let (least, flow) = (model.min_flow?, self.zone.flow);
        let check = Check::ValveMinFlow {
            valve: model.label.clone(),
            flow,
            least,
        };
        (flow < least).then(|| Finding::new(Severity::Fix, check))
    }

    fn mixed(&self) -> Vec<Finding> {
        let groups: Vec<&HeadGroup> = self.groups().collect();
        let mut found = Vec::new();
        for (i, a) in groups.iter().enumerate() {
            for b in &groups[i + 1..] {
                let reasons = reasons_apart(self.job, a, b);
                let Some(weight) = reasons.iter().map(|r| r.weight).max() else {
                    continue;
                };
                let rate_ratio = self.zone.rate_ratio;
                let (a, b, group) = (a.name.clone(), b.name.clone(), b.id.clone());
                found.push(if weight == Weight::Never {
                    let check = Check::MixedNever {
                        a,
                        b,
                        group,
                        reasons,
                        rate_ratio,
                    };
                    Finding::new(Severity::Stop, check)
                } else {
                    Finding::new(
                        Severity::Watch,
                        Check::Mixed {
                            a,
                            b,
                            group,
                            reasons,
                            rate_ratio,
                        },
                    )
                });
            }
        }
        found
    }

    fn dirty(&self) -> bool {
        self.job
            .supply(&self.valve.supply)
            .is_some_and(|s| s.water != WaterSource::Street)
    }

    fn drip_filter(&self) -> Option<Finding> {
        let school = self.job.rules.drip;
        let wanted = match school {
            DripSchool::AlwaysBoth | DripSchool::RegulateByRating => true,
            DripSchool::FilterIfDirty => self.dirty(),
        };
        (self.drip() && wanted && self.valve.filter.is_none())
            .then(|| Finding::new(Severity::Fix, Check::DripNoFilter { school }))
    }

    fn drip_regulator(&self) -> Option<Finding> {
        let (school, rating) = (self.job.rules.drip, self.job.rules.drip_rating);
        let dead_end = self.zone.dead_end;
        let wanted = match school {
            DripSchool::AlwaysBoth | DripSchool::FilterIfDirty => true,
            DripSchool::RegulateByRating => dead_end > rating,
        };
        (self.drip() && wanted && self.valve.regulation == Regulation::None).then(|| {
            Finding::new(
                Severity::Fix,
                Check::DripNoRegulator {
                    school,
                    dead_end,
                    rating,
                },
            )
        })
    }

    fn drip_rating(&self) -> Option<Finding> {
        let rating = self.job.rules.drip_rating;
        let arrives = self.valve.regulation.set().unwrap_or(self.zone.dead_end);
        (self.drip() && arrives > rating)
            .then(|| Finding::new(Severity::Stop, Check::DripOverRating { arrives, rating }))
    }
}

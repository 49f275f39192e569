//! The daily question: how many of these on one valve, what is left at the last head, which
//! regulator. The question is a small plan, so that it can become a job.

use crate::assess::{Assessment, assess};
use crate::catalogue::{Catalogue, Kind, PipeId};
use crate::plan::{
    Arrangement, ChainItem, ChainPart, DripRow, HeadGroup, Lot, Plan, Reading, ReadingKind, Regulation,
    Valve, apply,
};
use crate::regulation::{Comparison, compare};
use crate::units::{Flow, Length, Pressure, UnitSystem};
use crate::zone::{ZoneAssessment, ZoneFault, assess_zone};

/// Heads tried at most.
const MOST: u32 = 100;

/// What is asked.
#[derive(Debug, Clone, PartialEq)]
pub struct Question {
    /// Units of the answer.
    pub units: UnitSystem,
    /// With nothing running.
    pub static_pressure: Pressure,
    /// Pressures read with a flow running.
    pub dynamic: Vec<(Flow, Pressure)>,
    /// Service line.
    pub service: Option<(PipeId, Length)>,
    /// Meter by its size.
    pub meter: Option<String>,
    /// Backflow device of the catalogue.
    pub backflow: Option<String>,
    /// Solenoid valve of the catalogue.
    pub valve: String,
    /// Nozzle of the catalogue.
    pub nozzle: String,
    /// Degrees.
    pub arc: u16,
    /// Heads, or rows of dripline.
    pub count: u32,
    /// Between them.
    pub spacing: Length,
    /// Lateral.
    pub pipe: PipeId,
    /// How it reaches the heads.
    pub arrangement: Arrangement,
    /// From the valve to the first head.
    pub distance: Length,
    /// To the highest head.
    pub rise: Length,
    /// Where it is regulated.
    pub regulation: Regulation,
}

impl Question {
    /// The small plan that asks it: one supply, one group, one valve. It may hold figures that
    /// can't be used: validate it.
    pub fn plan(&self, catalogue: &Catalogue) -> Plan {
        let mut plan = Plan::new("Quick check", self.units);
        let supply = &mut plan.supplies[0];
        let reading = |kind| Reading {
            kind,
            when: String::new(),
            instrument: String::new(),
            place: String::new(),
        };
        supply.readings.push(reading(ReadingKind::Static {
            pressure: self.static_pressure,
        }));
        supply.readings.extend(
            self.dynamic
                .iter()
                .map(|&(flow, pressure)| reading(ReadingKind::Dynamic { flow, pressure })),
        );
        let service = self.service.clone().map(|(pipe, length)| ChainPart::Pipe {
            pipe,
            length,
            rise: Length::ZERO,
        });
        let meter = self.meter.clone().map(|size| ChainPart::Meter { size });
        let backflow = self.backflow.clone().map(|model| ChainPart::Device { model });
        let parts = [service, meter, backflow].into_iter().flatten();
        supply.chain = parts
            .enumerate()
            .map(|(i, part)| ChainItem {
                id: format!("c{}", i + 1),
                part,
            })
            .collect();
        let rows = catalogue
            .nozzle(&self.nozzle)
            .is_some_and(|n| matches!(n.kind, Kind::Dripline | Kind::Tape));
        plan.groups.push(HeadGroup {
            lots: vec![Lot {
                arc: self.arc,
                count: self.count,
                valve: Some("v1".into()),
            }],
            arrangement: self.arrangement,
            spacing: self.spacing,
            pipe: self.pipe.clone(),
            distance: self.distance,
            rise: self.rise,
            row: rows.then(|| DripRow {
                emitters: 20,
                emitter_spacing: Length::from_in(12.0),
            }),
            ..HeadGroup::new("g1", "Heads", &self.nozzle)
        });
        plan.valves.push(Valve {
            model: self.valve.clone(),
            regulation: self.regulation,
            ..Valve::new("v1", "Heads", "s1")
        });
        plan
    }
}

/// The answer.
#[derive(Debug, Clone)]
pub struct Answer {
    /// The largest number of heads that fits, and what stops one more. `None`: not even one.
    pub fits: Option<u32>,
    /// What stops the next head.
    pub limit: String,
    /// The same with the recommended regulator fitted, where that is another than the one asked.
    pub fits_regulated: Option<(String, u32)>,
    /// The zone as asked.
    pub zone: Result<ZoneAssessment, ZoneFault>,
    /// Ways to regulate it.
    pub regulation: Option<Comparison>,
    /// The rest: design flow, findings.
    pub assessment: Assessment,
}

/// Answers for a plan with one group on one valve.
pub fn answer(plan: &Plan, catalogue: &Catalogue) -> Answer {
    let assessment = assess(plan, catalogue);
    let design = assessment.supplies.first().and_then(|s| s.design.flow);
    let (fits, limit) = match (plan.groups.first(), plan.valves.first()) {
        (Some(group), Some(valve)) => how_many(plan, group, valve, design, catalogue),
        _ => (None, "nothing was asked".into()),
    };
    let zone = assessment
        .zones
        .first()
        .map_or(Err(ZoneFault::Empty), |z| z.zone.clone());
    let regulation = plan.valves.first().and_then(|v| compare(plan, v, catalogue));
    let fits_regulated = regulation.as_ref().and_then(|c| {
        let option = &c.options[c.recommended];
        let (regulated, _) = apply(plan, option.edit.as_ref()?, catalogue).ok()?;
        let (n, _) = how_many(
            &regulated,
            regulated.groups.first()?,
            regulated.valves.first()?,
            design,
            catalogue,
        );
        Some((option.label.clone(), n?))
    });
    Answer {
        fits,
        limit,
        fits_regulated,
        zone,
        regulation,
        assessment,
    }
}

/// Adds heads one by one until the flow, the last head's pressure or the first leg's velocity says no.
fn how_many(
    plan: &Plan,
    group: &HeadGroup,
    valve: &Valve,
    design: Option<Flow>,
    catalogue: &Catalogue,
) -> (Option<u32>, String) {
    let arc = group.lots.first().map_or(360, |l| l.arc);
    let mut fits = None;
    for n in 1..=MOST {
        let mut tried = plan.clone();
        // The ground climbs at the slope that was asked: a longer row climbs further.
        let rise = group.rise * (f64::from(n) / f64::from(group.count().max(1)));
        tried.groups[0] = HeadGroup {
            lots: vec![Lot {
                arc,
                count: n,
                valve: Some(valve.id.clone()),
            }],
            rise,
            ..group.clone()
        };
        let Ok(zone) = assess_zone(&tried, &tried.valves[0], catalogue) else {
            return (fits, "the zone can't be solved: see the water".into());
        };
        if let Some(limit) = stops(&tried, &zone, design) {
            return (fits, limit);
        }
        fits = Some(n);
    }
    (fits, format!("more than {MOST} were not tried"))
}

fn stops(plan: &Plan, zone: &ZoneAssessment, design: Option<Flow>) -> Option<String> {
    let units = plan.units;
    let n = zone.heads.len();
    if let Some(design) = design
        && zone.flow > design
    {
        return Some(format!(
            "{n} take {}, over the design flow of {}",
            zone.flow.show(units),
            design.show(units)
        ));
    }
    let low = zone.lowest();
    if low.nozzle < low.band.1 {
        return Some(format!(
            "with {n} the last head gets {}, it needs {}",
            low.nozzle.show(units),
            low.band.1.show_round(units)
        ));
    }
    (zone.velocity > plan.rules.velocity_watch).then(|| {
        format!(
            "with {n} the pipe runs at {}, over {}",
            zone.velocity.show(units),
            plan.rules.velocity_watch.show(units)
        )
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::zone::tests::plan;

    #[test]
    fn one_more_than_fits_breaks_a_limit_and_what_fits_does_not() {
        let c = Catalogue::builtin();
        let mut p = plan(55.0, "spray-12", &[(180, 3)]);
        p.supplies[0].chain.push(crate::plan::ChainItem {
            id: "c1".into(),
            part: crate::plan::ChainPart::Meter { size: "3/4in".into() },
        });
        let a = answer(&p, c);
        let n = a.fits.expect("some fit");
        let design = a.assessment.supplies[0].design.flow;
        let with = |n: u32| {
            let mut tried = p.clone();
            tried.groups[0].lots[0].count = n;
            let zone = assess_zone(&tried, &tried.valves[0], c).unwrap();
            stops(&tried, &zone, design)
        };
        assert_eq!(with(n), None);
        assert_eq!(with(n + 1), Some(a.limit));
    }

    #[test]
    fn a_regulator_lets_more_heads_share_a_high_pressure() {
        let mut p = plan(90.0, "spray-12", &[(180, 5)]);
        p.groups[0].pipe = "class-200 1in".parse().unwrap();
        p.supplies[0].chain.push(crate::plan::ChainItem {
            id: "c1".into(),
            part: crate::plan::ChainPart::Meter { size: "3/4in".into() },
        });
        let a = answer(&p, Catalogue::builtin());
        assert!(a.fits_regulated.expect("a regulator is recommended").1 > a.fits.unwrap());
    }

    #[test]
    fn heads_that_nothing_can_lift_fit_not_once() {
        let mut p = plan(15.0, "rotator-20", &[(180, 2)]);
        p.groups[0].rise = crate::units::Length::from_ft(20.0);
        let a = answer(&p, Catalogue::builtin());
        assert_eq!(a.fits, None);
        assert!(
            a.limit.contains("over the design flow of 0.00 gpm"),
            "{}",
            a.limit
        );
    }
}

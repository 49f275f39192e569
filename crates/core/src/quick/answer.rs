use crate::assess::{Assessment, assess};
use crate::job::Job;
use crate::plan::{ArcCount, DesignFlowMethod, HeadGroup, Valve};
use crate::regulation::{Comparison, Way, compare};
use crate::units::{Flow, Pressure, Speed};
use crate::water::Aim;
use crate::zone::{ZoneAssessment, ZoneFault, zone_of};
use std::sync::Arc;

/// Heads tried at most.
const MOST: u32 = 100;

/// What stops the next head.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Limit {
    /// So many take more than the design flow.
    Flow {
        /// With so many heads.
        heads: usize,
        /// They take this.
        takes: Flow,
        /// The design flow.
        design: Flow,
    },
    /// With so many the last head gets less than is aimed at.
    Pressure {
        /// With so many heads.
        heads: usize,
        /// It gets this.
        gets: Pressure,
        /// What is aimed at.
        needs: Pressure,
    },
    /// With so many a pipe runs too fast.
    Velocity {
        /// With so many heads.
        heads: usize,
        /// How fast.
        velocity: Speed,
        /// The house's limit.
        limit: Speed,
    },
    /// The zone has no figures.
    Unsolved,
    /// More were not tried.
    Untried(u32),
    /// The plan asks nothing.
    NothingAsked,
}

/// The largest numbers of heads that fit, by how well the last one works. None: not even one.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Fits {
    /// With full nominal pressure at the last head.
    pub nominal: Option<u32>,
    /// At the aim.
    pub aim: Option<u32>,
    /// At the bottom of the band.
    pub least: Option<u32>,
}

/// The answer.
#[derive(Debug, Clone)]
pub struct Answer {
    /// How many fit.
    pub fits: Fits,
    /// The aim: the first that at least one head gets.
    pub aim: Aim,
    /// What stops one more at the aim.
    pub limit: Limit,
    /// The same with the recommended regulator fitted, where that is another than the one asked.
    pub fits_regulated: Option<(Way, u32)>,
    /// The zone as asked.
    pub zone: Result<Arc<ZoneAssessment>, ZoneFault>,
    /// Ways to regulate it.
    pub regulation: Option<Comparison>,
    /// The rest: design flow, findings.
    pub assessment: Assessment,
}

/// Answers for a job with one group on one valve.
pub fn answer(job: &Job) -> Answer {
    let assessment = assess(job);
    let design = assessment.supplies.first().and_then(|s| s.design.flow);
    // Pressure is asked of the solved zone itself, not of a rule about it.
    let water = assessment.supplies.first().map(|s| &s.design);
    let by_pressure = water.is_some_and(|d| d.by == Some(DesignFlowMethod::WorkingPressure) && !d.pinned);
    let design = design.filter(|_| !by_pressure);
    let how_many = |job: &Job| match (job.groups.first(), job.valves.first()) {
        (Some(group), Some(valve)) => how_many(job, group, valve, design),
        _ => (Fits::default(), Aim::Best, Limit::NothingAsked),
    };
    let (fits, aim, limit) = how_many(job);
    let zone = assessment
        .zones
        .first()
        .map_or(Err(ZoneFault::Empty), |z| z.zone.clone());
    let regulation = job.valves.first().and_then(|v| compare(job, v));
    let fits_regulated = regulation.as_ref().and_then(|c| {
        let option = &c.options[c.recommended];
        let (regulated, _) = job.apply(option.edit.as_ref()?).ok()?;
        Some((option.way, how_many(&regulated).0.aim?))
    });
    Answer {
        fits,
        aim,
        limit,
        fits_regulated,
        zone,
        regulation,
        assessment,
    }
}

/// The job with so many heads instead. The ground climbs at the slope that was asked: a longer row
/// climbs further.
fn with_heads(job: &Job, group: &HeadGroup, valve: &Valve, n: u32) -> Job {
    let arc = group.listed.first().map_or(360, |l| l.arc);
    let mut plan = job.plan().clone();
    plan.groups[0] = HeadGroup {
        listed: vec![ArcCount {
            arc,
            count: n,
            valve: Some(valve.id.clone()),
        }],
        rise: group.rise * (f64::from(n) / f64::from(group.count().max(1))),
        ..group.clone()
    };
    Job::new(plan)
}

/// Adds heads one by one until the flow, the last head's pressure or a pipe's velocity says no; at
/// nominal, at the aim, at the bottom of the band.
fn how_many(job: &Job, group: &HeadGroup, valve: &Valve, design: Option<Flow>) -> (Fits, Aim, Limit) {
    let band = job
        .catalogue()
        .nozzle(&group.nozzle)
        .map(|n| job.catalogue().class(n.kind).band());
    let Some(band) = band else {
        return (Fits::default(), Aim::Best, Limit::NothingAsked);
    };
    let zones: Vec<Option<ZoneAssessment>> = (1..=MOST)
        .map(|n| zone_of(&with_heads(job, group, valve, n), valve).ok())
        // Once the bottom of the band, the flow or a velocity stops, more heads only stop more.
        .scan(false, |over, zone| {
            let was = *over;
            *over = zone
                .as_ref()
                .is_none_or(|z| stops(job, z, design, band.least).is_some());
            (!was).then_some(zone)
        })
        .collect();
    let count = |wanted: Pressure| {
        let mut fits = None;
        for (n, zone) in (1..).zip(&zones) {
            let Some(zone) = zone else {
                return (fits, Limit::Unsolved);
            };
            if let Some(limit) = stops(job, zone, design, wanted) {
                return (fits, limit);
            }
            fits = Some(n);
        }
        (fits, Limit::Untried(MOST))
    };
    let (nominal, _) = count(band.best);
    let (least, at_least) = count(band.least);
    let aims = Aim::ALL.map(|aim| (aim, count(aim.pressure(band))));
    let (aim, (fits, limit)) = aims
        .into_iter()
        .find(|(_, (fits, _))| fits.is_some())
        .unwrap_or((Aim::AtLimit, (None, at_least)));
    let fits = Fits {
        nominal,
        aim: fits,
        least,
    };
    (fits, aim, limit)
}

/// What stops a zone whose last head is to get `wanted`, if anything does.
pub(super) fn stops(
    job: &Job,
    zone: &ZoneAssessment,
    design: Option<Flow>,
    wanted: Pressure,
) -> Option<Limit> {
    let heads = zone.heads.len();
    if let Some(design) = design
        && zone.flow > design
    {
        return Some(Limit::Flow {
            heads,
            takes: zone.flow,
            design,
        });
    }
    let low = zone.lowest();
    if low.nozzle < wanted {
        return Some(Limit::Pressure {
            heads,
            gets: low.nozzle,
            needs: wanted,
        });
    }
    let limit = job.rules.velocity_watch;
    (zone.velocity > limit).then_some(Limit::Velocity {
        heads,
        velocity: zone.velocity,
        limit,
    })
}

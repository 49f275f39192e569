use crate::assess::{Assessment, assess};
use crate::job::Job;
use crate::plan::{ArcCount, HeadGroup, Valve};
use crate::regulation::{Comparison, Way, compare};
use crate::units::{Flow, Pressure, Speed};
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
    /// With so many the last head starves.
    Pressure {
        /// With so many heads.
        heads: usize,
        /// It gets this.
        gets: Pressure,
        /// The least of its band.
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

/// The answer.
#[derive(Debug, Clone)]
pub struct Answer {
    /// The largest number of heads that fits. None: not even one.
    pub fits: Option<u32>,
    /// What stops one more.
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
    let how_many = |job: &Job| match (job.groups.first(), job.valves.first()) {
        (Some(group), Some(valve)) => how_many(job, group, valve, design),
        _ => (None, Limit::NothingAsked),
    };
    let (fits, limit) = how_many(job);
    let zone = assessment
        .zones
        .first()
        .map_or(Err(ZoneFault::Empty), |z| z.zone.clone());
    let regulation = job.valves.first().and_then(|v| compare(job, v));
    let fits_regulated = regulation.as_ref().and_then(|c| {
        let option = &c.options[c.recommended];
        let (regulated, _) = job.apply(option.edit.as_ref()?).ok()?;
        Some((option.way, how_many(&regulated).0?))
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

/// Adds heads one by one until the flow, the last head's pressure or a pipe's velocity says no.
fn how_many(job: &Job, group: &HeadGroup, valve: &Valve, design: Option<Flow>) -> (Option<u32>, Limit) {
    let mut fits = None;
    for n in 1..=MOST {
        let tried = with_heads(job, group, valve, n);
        let Ok(zone) = zone_of(&tried, valve) else {
            return (fits, Limit::Unsolved);
        };
        if let Some(limit) = stops(job, &zone, design) {
            return (fits, limit);
        }
        fits = Some(n);
    }
    (fits, Limit::Untried(MOST))
}

/// What stops a zone, if anything does.
pub(super) fn stops(job: &Job, zone: &ZoneAssessment, design: Option<Flow>) -> Option<Limit> {
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
    if low.nozzle < low.band.least {
        return Some(Limit::Pressure {
            heads,
            gets: low.nozzle,
            needs: low.band.least,
        });
    }
    let limit = job.rules.velocity_watch;
    (zone.velocity > limit).then_some(Limit::Velocity {
        heads,
        velocity: zone.velocity,
        limit,
    })
}

//! How many heads fit on a valve: heads added one by one to the solved zone, until the flow, the last
//! head's pressure or a velocity says no.

use crate::findings::{Check, hydraulic_findings};
use crate::job::Job;
use crate::plan::{ArcCount, HeadGroup, Valve};
use crate::units::{Flow, Pressure, Speed};
use crate::water::{Aim, Allowance};
use crate::zone::{ZoneAssessment, zone_of};
use std::collections::BTreeMap;

/// Heads tried at most: emitters at plants are counted in thousands.
const MOST: u32 = 4_096;

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

impl Limit {
    /// In one word: `flow`, `pressure` or `velocity`; none where none of them stops it.
    pub fn word(self) -> Option<&'static str> {
        match self {
            Self::Flow { .. } => Some("flow"),
            Self::Pressure { .. } => Some("pressure"),
            Self::Velocity { .. } => Some("velocity"),
            Self::Unsolved | Self::Untried(_) | Self::NothingAsked => None,
        }
    }
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

/// How many heads fit on a valve.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Fit {
    /// The three counts.
    pub fits: Fits,
    /// The aim: the first that at least one head gets.
    pub aim: Aim,
    /// What stops one more at the aim.
    pub limit: Limit,
}

impl Fit {
    /// Where nothing was asked.
    pub const NOTHING: Self = Self {
        fits: Fits { nominal: None, aim: None, least: None },
        aim: Aim::Best,
        limit: Limit::NothingAsked,
    };
}

/// How many heads of the valve's one listed group fit on it, as they are piped and regulated; none for
/// a valve with several groups or drawn heads: there one more head is a question of which.
///
/// The largest n for which the zone solved with n heads keeps its flow within `design` (what the connection
/// lets any valve take, where that is known), its lowest head at or over the aim, and every pipe from the
/// service line on within the house's velocity. Heads from 1 to 4,096 are tried, by doubling and bisection; the ground goes
/// on climbing at the slope that was given.
///
/// # Source
/// The question as installers ask it; Todini and Pilati (1988) for every zone that is tried.
///
/// # Example
/// 60 psi, 1 in meter, 50 ft of 1 1/4 in copper, reduced-pressure assembly, rotors of 3 gpm 38 ft apart on
/// 1 1/4 in: 4 keep 45 psi, 6 keep 40.5, 9 keep 35 (worked leg by leg apart from the program; a case holds
/// it).
pub fn fit(job: &Job, valve: &Valve, design: Option<Flow>) -> Option<Fit> {
    let mut on = job.groups.iter().filter(|g| g.is_on(&valve.id));
    let group = on.next().filter(|g| !g.is_drawn() && on.next().is_none())?;
    let catalogue = job.catalogue();
    let nozzle = catalogue.nozzle(&group.nozzle)?;
    let class = catalogue.class(nozzle.kind);
    let band = class.band();
    // More pressure gives a compensating emitter nothing: what it needs is its aim.
    let compensating = class.exponent == 0.0;
    let mut zones: BTreeMap<u32, Option<ZoneAssessment>> = BTreeMap::new();
    let mut stopped = |n: u32, wanted: Pressure| {
        let zone = zones.entry(n).or_insert_with(|| zone_of(&with_heads(job, group, valve, n), valve).ok());
        zone.as_ref().map_or(Some(Limit::Unsolved), |z| stops(job, valve, z, design, wanted))
    };
    // What stops some heads stops more of them: doubled until it does, then halved in between.
    let mut count = |wanted: Pressure| {
        let (mut fits, mut over) = (0, 1);
        let mut limit = loop {
            match stopped(over, wanted) {
                Some(limit) => break limit,
                None if over == MOST => return (Some(MOST), Limit::Untried(MOST)),
                None => (fits, over) = (over, over * 2),
            }
        };
        while over - fits > 1 {
            let middle = fits + (over - fits) / 2;
            match stopped(middle, wanted) {
                Some(here) => (over, limit) = (middle, here),
                None => fits = middle,
            }
        }
        ((fits > 0).then_some(fits), limit)
    };
    let (nominal, _) = count(if compensating { band.least } else { band.best });
    let (least, at_least) = count(band.least);
    let aims = Aim::ALL.map(|aim| (aim, count(aim.wanted(band, compensating))));
    let (aim, (counted, limit)) =
        aims.into_iter().find(|(_, (fits, _))| fits.is_some()).unwrap_or((Aim::AtLimit, (None, at_least)));
    let fits = Fits { nominal, aim: counted, least };
    Some(Fit { fits, aim, limit })
}

/// The job with so many heads of the group on the valve instead, in the order of arcs that it has. The
/// ground climbs at the slope that was asked: a longer row climbs further.
fn with_heads(job: &Job, group: &HeadGroup, valve: &Valve, n: u32) -> Job {
    let arcs: Vec<u16> = group.heads().filter(|h| h.2 == Some(valve.id.as_str())).map(|h| h.1).collect();
    let mut lots: Vec<ArcCount> = Vec::new();
    for arc in arcs.iter().cycle().take(n as usize) {
        match lots.last_mut() {
            Some(lot) if lot.arc == *arc => lot.count += 1,
            _ => lots.push(ArcCount { arc: *arc, count: 1, valve: Some(valve.id.clone()) }),
        }
    }
    let mut plan = job.plan().clone();
    for g in &mut plan.groups {
        if g.id == group.id {
            g.rise = g.rise * (f64::from(n) / arcs.len().max(1) as f64);
            g.listed = std::mem::take(&mut lots);
        }
    }
    Job::new(plan)
}

/// What stops a zone whose last head is to get `wanted`, if anything does: the flow that the connection
/// allows, the last head's pressure, the velocity in any pipe from the street on.
pub fn stops(
    job: &Job,
    valve: &Valve,
    zone: &ZoneAssessment,
    design: Option<Flow>,
    wanted: Pressure,
) -> Option<Limit> {
    let heads = zone.heads.len();
    let low = zone.lowest();
    let allowance = Allowance { flow: design, assumed: false, aim: Aim::AtLimit };
    let found = hydraulic_findings(job, valve, zone, &allowance);
    let first = |limit: fn(&Check, usize) -> Option<Limit>| found.iter().find_map(|f| limit(&f.check, heads));
    let flow = |check: &Check, heads| match *check {
        Check::FlowOverDesign { flow, design, .. } => Some(Limit::Flow { heads, takes: flow, design }),
        _ => None,
    };
    let fast = |check: &Check, heads| match *check {
        Check::Velocity { velocity, watch, .. } => Some(Limit::Velocity { heads, velocity, limit: watch }),
        Check::ServiceVelocity { ref shared, .. } => {
            Some(Limit::Velocity { heads, velocity: shared.velocity, limit: shared.limit })
        }
        _ => None,
    };
    let starves = || {
        let short = zone.starved().is_some() || !low.nozzle.reaches(wanted);
        short.then_some(Limit::Pressure { heads, gets: low.nozzle, needs: wanted })
    };
    first(flow).or_else(starves).or_else(|| first(fast))
}

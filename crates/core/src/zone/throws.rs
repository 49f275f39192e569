//! How far the heads of a zone throw at the pressure that reaches them: alone, some of them at once, all of them, on
//! the lateral as it is and on the next sizes.

use super::ask::inputs_of;
use super::figures::{ZoneFault, assess_zone};
use super::head::{HeadResult, HeadState};
use super::inputs::ZoneInputs;
use crate::catalogue::{Kind, PipeId};
use crate::job::Job;
use crate::plan::{Edit, HeadGroup, Valve};
use crate::units::{Flow, Length, Pressure};

/// Up to so many heads every number of them is looked at; of more only some.
const EVERY: usize = 8;

/// So many heads open at once, those nearest the valve first.
#[derive(Debug, Clone, PartialEq)]
pub struct Open {
    /// How many.
    pub heads: usize,
    /// What they take.
    pub flow: Flow,
    /// Pressure at the nozzle of the worst of them.
    pub lowest: Pressure,
    /// What that one throws then.
    pub shortest: Length,
    /// What the farthest throws.
    pub farthest: Length,
    /// That pressure over the nominal one of its kind.
    pub share: f64,
    /// The pressure lies in the band of its kind.
    pub works: bool,
}

/// A size of lateral.
#[derive(Debug, Clone, PartialEq)]
pub struct OnPipe {
    /// The pipe of the zone's worst group.
    pub pipe: PipeId,
    /// By how many are open: 1 first, all of them last.
    pub open: Vec<Open>,
}

impl OnPipe {
    /// The most that may be open with every head of them at a share of its nominal pressure or over; 0 where not even
    /// one is.
    pub fn most_at(&self, share: f64) -> usize {
        let kept = self.open.iter().take_while(|o| o.share >= share);
        kept.last().map_or(0, |o| o.heads)
    }
}

/// The throws of a zone by the size of its lateral.
#[derive(Debug, Clone, PartialEq)]
pub struct Throws {
    /// The size below the one there is, that, and the next two, as far as they are made.
    pub sizes: Vec<OnPipe>,
    /// Place of the one there is.
    pub now: usize,
}

/// How far the heads of a valve throw, by the size of its lateral and by how many are open at once; a zone whose pipe is
/// drawn leg by leg has one size alone. None for drip, bubblers and patterns.
///
/// Throw at the pressure solved: R (p / nominal)^0.3, at most 3 % over R ([`crate::catalogue::Nozzle::throw`]).
///
/// # Errors
/// [`ZoneFault`]: the water is not known, or no balance is found.
pub fn throws(job: &Job, valve: &Valve) -> Result<Option<Throws>, ZoneFault> {
    let inputs = inputs_of(job, valve)?;
    let all = assess_zone(&inputs)?;
    let worst = &all.lowest().head.group;
    let drawn = !inputs.lateral.legs.is_empty();
    let Some(group) = job.group(worst).filter(|_| all.heads.iter().all(|h| throw_of(&inputs, h).is_some()))
    else {
        return Ok(None);
    };
    let of = |steps: i32| -> Result<Option<OnPipe>, ZoneFault> {
        let Some((job, pipe)) = with_size(job, valve, group, steps).filter(|_| !drawn) else {
            return Ok(None);
        };
        let open = opened(&inputs_of(&job, valve)?)?;
        Ok(Some(OnPipe { pipe, open }))
    };
    let smaller = of(-1)?;
    let now = usize::from(smaller.is_some());
    let present = OnPipe { pipe: group.pipe.clone(), open: opened(&inputs)? };
    let sizes = [smaller, Some(present), of(1)?, of(2)?].into_iter().flatten().collect();
    Ok(Some(Throws { sizes, now }))
}

/// The job with the laterals of a valve so many sizes larger, below zero smaller, and what one of its groups then has;
/// none where that group's pipe is not made so.
fn with_size(job: &Job, valve: &Valve, of: &HeadGroup, steps: i32) -> Option<(Job, PipeId)> {
    let resized = |g: &HeadGroup| {
        Some(HeadGroup {
            pipe: job.catalogue().pipe_beside(&g.pipe, steps)?.id(),
            feed_pipe: None,
            ..g.clone()
        })
    };
    let pipe = resized(of)?.pipe;
    let on_valve = job.groups.iter().filter(|g| g.is_on(&valve.id));
    let edits = on_valve.filter_map(resized).map(Edit::put).collect();
    let (job, _) = job.apply(&Edit::batch(edits)).ok()?;
    Some((job, pipe))
}

/// A zone with more and more of its heads.
fn opened(inputs: &ZoneInputs) -> Result<Vec<Open>, ZoneFault> {
    let all: usize = inputs.groups.iter().map(|g| g.heads.len()).sum::<usize>() + inputs.drawn.len();
    let mut numbers: Vec<usize> = match all {
        0..=EVERY => (1..=all).collect(),
        _ => (1..=EVERY).map(|k| (k * all).div_ceil(EVERY)).chain([1]).collect(),
    };
    numbers.sort_unstable();
    numbers.dedup();
    numbers.into_iter().map(|n| open(&inputs.first(n))).collect()
}

fn open(inputs: &ZoneInputs) -> Result<Open, ZoneFault> {
    let zone = assess_zone(inputs)?;
    let throws = zone.heads.iter().filter_map(|h| throw_of(inputs, h));
    let farthest = throws.fold(Length::ZERO, Length::max);
    let low = zone.lowest();
    Ok(Open {
        heads: zone.heads.len(),
        flow: zone.flow,
        lowest: low.nozzle,
        shortest: throw_of(inputs, low).unwrap_or_default(),
        farthest,
        share: low.nozzle / low.band.best,
        works: zone.heads.iter().all(|h| h.state() == HeadState::Works),
    })
}

/// What a head throws at the pressure at its nozzle; none where its kind has no throw.
fn throw_of(inputs: &ZoneInputs, head: &HeadResult) -> Option<Length> {
    let drawn = inputs.drawn.iter().find(|d| d.head == head.head);
    let listed = || inputs.groups.iter().find(|g| g.id == head.head.group);
    let (watering, turned) = match drawn {
        Some(d) => (d.watering, d.turned),
        None => (listed()?.watering, None),
    };
    let watering = &inputs.waterings[watering];
    // A bubbler's water runs out beside it.
    if head.kind == Kind::Bubbler {
        return None;
    }
    watering.nozzle.throw(&watering.class, head.nozzle, turned)
}

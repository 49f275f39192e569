//! Pipe as it is drawn, laid into a zone's network: what of the plan's legs a valve's water runs through.

use super::bore::{Bore, Spot};
use crate::job::Job;
use crate::plan::{PipeLeg, Valve};
use crate::site::{Point, height_at};
use crate::units::Length;
use std::collections::HashMap;

/// Drawn pipe: joints, and legs between them. The first joint is where the water comes from.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Pipework {
    /// Where legs meet.
    pub joints: Vec<JointInput>,
    /// Pipe between them.
    pub legs: Vec<LegInput>,
}

/// A joint of drawn pipe.
#[derive(Debug, Clone, PartialEq)]
pub struct JointInput {
    /// What the plan calls it.
    pub id: String,
    /// Where it is.
    pub spot: Spot,
}

/// A leg of drawn pipe.
#[derive(Debug, Clone, PartialEq)]
pub struct LegInput {
    /// Its name on the plan.
    pub id: String,
    /// Places of its ends among the joints, the one that water reaches first before the other.
    pub ends: (usize, usize),
    /// Laid against the way that it is drawn.
    pub reversed: bool,
    /// Its bore.
    pub bore: Bore,
    /// Along its bends.
    pub length: Length,
}

/// The drawn main of a valve.
#[derive(Debug, Clone, PartialEq)]
pub struct MainInput {
    /// From the point of connection on.
    pub pipework: Pipework,
    /// The joint at which the valve hangs.
    pub end: usize,
    /// Its bore there, and how many valves of the manifold come before this one; none: a valve without
    /// a box of its own.
    pub manifold: Option<(Bore, usize)>,
}

impl Pipework {
    /// Legs as drawn, from one end on. Legs without a place, or that nothing joins to it, are left out.
    pub(super) fn of<'p>(job: &Job, start: &str, legs: impl Iterator<Item = &'p PipeLeg>) -> Self {
        let legs: Vec<&PipeLeg> = legs.collect();
        let mut work = Self::default();
        if legs.is_empty() {
            return work;
        }
        let heights = job.site.heights();
        let spot = |at: Point| Spot { at, height: height_at(&heights, at).unwrap_or_default() };
        let Some(first) = job.pipe_end(start) else {
            return work;
        };
        let mut at_end: HashMap<&str, Vec<usize>> = HashMap::new();
        for (i, leg) in legs.iter().enumerate() {
            at_end.entry(&leg.from).or_default().push(i);
            at_end.entry(&leg.to).or_default().push(i);
        }
        let mut places: HashMap<&str, usize> = HashMap::from([(start, 0)]);
        work.joints.push(JointInput { id: start.to_owned(), spot: spot(first) });
        let mut laid = vec![false; legs.len()];
        let mut queue = std::collections::VecDeque::from([start]);
        while let Some(here) = queue.pop_front() {
            for &i in at_end.get(here).into_iter().flatten() {
                if std::mem::replace(&mut laid[i], true) {
                    continue;
                }
                let leg = legs[i];
                let other = if leg.from == here { &leg.to } else { &leg.from };
                let bore = job.catalogue().pipe(&leg.pipe).map(Bore::from);
                let (Some(way), Some(bore)) = (job.way_of(leg), bore) else {
                    continue;
                };
                let place = *places.entry(other).or_insert_with(|| {
                    let end = if leg.from == here { way[way.len() - 1] } else { way[0] };
                    work.joints.push(JointInput { id: other.clone(), spot: spot(end) });
                    queue.push_back(other);
                    work.joints.len() - 1
                });
                let metres: f64 = way.windows(2).map(|w| w[0].distance(w[1])).sum();
                work.legs.push(LegInput {
                    id: leg.id.clone(),
                    ends: (places[here], place),
                    reversed: leg.from != here,
                    bore,
                    length: Length::from_m(metres),
                });
            }
        }
        work
    }

    /// The lateral of a valve.
    pub fn lateral(job: &Job, valve: &Valve) -> Self {
        Self::of(job, &valve.id, job.piping.lateral(&valve.id))
    }

    /// Takes off what carries no water to a joint: dead ends, one after the other. Loops stay.
    fn pruned_to(mut self, end: usize) -> Self {
        loop {
            let mut degree = vec![0; self.joints.len()];
            for leg in &self.legs {
                degree[leg.ends.0] += 1;
                degree[leg.ends.1] += 1;
            }
            let dead = |j: usize| j != 0 && j != end && degree[j] == 1;
            let before = self.legs.len();
            self.legs.retain(|l| !dead(l.ends.0) && !dead(l.ends.1));
            if self.legs.len() == before {
                return self;
            }
        }
    }
}

impl MainInput {
    /// The drawn main of a valve, as far as its water runs through it. None where none reaches it.
    pub(super) fn of(job: &Job, valve: &Valve) -> Option<Self> {
        let whole = Pipework::of(job, &valve.supply, job.piping.main(&valve.supply));
        let place = |id: &str| whole.joints.iter().position(|j| j.id == id);
        let in_box = job.box_of(valve).and_then(|id| Some((id, place(id)?)));
        let (end, in_box) = match in_box {
            Some((id, end)) => (end, Some(id)),
            None => (place(&valve.id)?, None),
        };
        let manifold = in_box.and_then(|id| {
            let bore = whole.legs.iter().find(|l| l.ends.0 == end || l.ends.1 == end)?.bore;
            let before = job.valves.iter().take_while(|v| v.id != valve.id);
            let before = before.filter(|v| v.valve_box.as_deref() == Some(id) && v.supply == valve.supply);
            Some((bore, before.count()))
        });
        Some(Self { pipework: whole.pruned_to(end), end, manifold })
    }
}

/// Whether the drawn main of its connection reaches a valve.
pub fn main_reaches(job: &Job, valve: &Valve) -> bool {
    MainInput::of(job, valve).is_some()
}

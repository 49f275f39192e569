//! Laterals that lie in the trenches of other pipes.

use super::trench::{beside, gaps, pipe_price, trench_price};
use crate::job::Job;
use crate::plan::PipeLeg;
use crate::site::Point;
use crate::units::Length;

/// A straight trench that is dug already.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Stretch {
    pub(crate) a: Point,
    pub(crate) b: Point,
    pub(crate) sleeve: bool,
}

/// How far a lateral follows the trenches of other pipes.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Follows {
    /// Pipe that lies in them.
    pub length: Length,
    /// What a metre of it costs, as a share of what it costs with a trench of its own.
    pub share_of_cost: f64,
}

/// How far the lateral of a valve follows other pipes.
pub fn follows(job: &Job, valve: &str) -> Follows {
    let others = job.piping.legs.iter().filter(|l| l.valve() != Some(valve));
    let dug: Vec<Stretch> = others.flat_map(|leg| stretches(job, leg)).collect();
    let (mut length, mut along, mut apart) = (0.0, 0.0, 0.0);
    for leg in job.piping.lateral(valve) {
        let bore = job.catalogue().pipe(&leg.pipe).map_or(Length::ZERO, |p| p.inside);
        let pipe = pipe_price(job, bore);
        for own in stretches(job, leg) {
            let taken = dug.iter().filter_map(|s| beside(own.a, own.b, s.a, s.b)).collect();
            let new: f64 = gaps(taken).iter().map(|(s, t)| t - s).sum();
            let shared = own.a.distance(own.b) * (1.0 - new);
            length += shared;
            along += shared * pipe;
            apart += shared * (pipe + trench_price(job));
        }
    }
    Follows { length: Length::from_m(length), share_of_cost: if apart > 0.0 { along / apart } else { 1.0 } }
}

/// The straight stretches of a leg.
pub(crate) fn stretches(job: &Job, leg: &PipeLeg) -> Vec<Stretch> {
    let way = job.way_of(leg).unwrap_or_default();
    let sleeve = leg.sleeve.is_some();
    let stretch = |w: &[Point]| Stretch { a: w[0], b: w[1], sleeve };
    way.windows(2).map(stretch).collect()
}

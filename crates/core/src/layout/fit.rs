//! Which way a head looks, and how wide: what brings most of its throw on the area and least off it.

use super::family::Family;
use super::field::harm;
use crate::coverage::{Ground, Profile, Under};
use crate::site::Point;
use std::collections::VecDeque;
use std::ops::Range;

/// Degrees that arcs are set to.
pub(super) const STEP: u16 = 5;
const RAYS: usize = 360 / STEP as usize;
/// Points looked at along a ray.
const POINTS: usize = 10;

/// Gains so near each other are the same.
const ALIKE: f64 = 1e-9;

/// An arc, degrees, and the middle of it.
pub(super) type Sector = (u16, f64);

/// Fits arcs of a kind at one throw: where its rays come down and what they bring are the same at every place.
pub(super) struct Fitter {
    /// Where the points of each ray lie from the head, metres.
    rays: Vec<[Point; POINTS]>,
    /// The water at each of them, as a share of what falls at the head.
    water: [f64; POINTS],
    /// The widest arc that is made, degrees.
    most: u16,
    /// Arcs that are made short of a full circle, in steps.
    made: Vec<Range<usize>>,
}

impl Fitter {
    /// For a family's nozzles, at a throw in metres.
    pub fn new(family: &Family<'_>, throw: f64) -> Self {
        let share = |k: usize| (k as f64 + 0.5) / POINTS as f64;
        let profile = Profile::of(family.kind);
        let ray = |i: usize| {
            let end = Point::default().toward((i as f64 + 0.5) * f64::from(STEP), throw);
            std::array::from_fn(|k| end * share(k))
        };
        let ((least, most), gap) = (family.arcs(), family.kind.arcs_not_made());
        let least = usize::from(least.div_ceil(STEP));
        // Up to the gap, and from it on.
        let (from, to) = gap.map_or((RAYS, RAYS), |(from, to)| {
            (usize::from(from.div_ceil(STEP)), usize::from(to / STEP) + 1)
        });
        let made = [least..from.min(RAYS), to.max(least)..RAYS];
        Self {
            rays: (0..RAYS).map(ray).collect(),
            water: std::array::from_fn(|k| profile.at(share(k)) * share(k)),
            most,
            made: made.into_iter().filter(|r| !r.is_empty()).collect(),
        }
    }

    /// The arc, and the middle of it, that brings most of a throw on the area and least off it.
    pub fn arc(&self, ground: &Ground, at: Point) -> Sector {
        let worth: Vec<f64> = self.rays.iter().map(|ray| self.worth(ground, at, ray)).collect();
        let all: f64 = worth.iter().sum();
        let lost: f64 = worth.iter().filter(|w| **w < 0.0).sum();
        // All round, unless that throws a noticeable part away.
        if self.most >= 360 && -lost < 0.02 * all {
            return (360, 0.0);
        }
        let mut sums = [0.0; 2 * RAYS + 1];
        for i in 0..2 * RAYS {
            sums[i + 1] = sums[i] + worth[i % RAYS];
        }
        let mut best = (f64::MIN, 0, self.made.first().map_or(RAYS, |r| r.start));
        for made in &self.made {
            let highest = highest(&sums[made.start..RAYS - 1 + made.end], made.len());
            for (start, highest) in highest.into_iter().enumerate() {
                let gain = highest - sums[start];
                if gain > best.0 + ALIKE {
                    let least = made.clone().find(|long| sums[start + long] >= highest - ALIKE);
                    best = (gain, start, least.unwrap_or(made.start));
                }
            }
        }
        let (_, start, long) = best;
        let degrees = (long * usize::from(STEP)) as f64;
        let middle = start as f64 * f64::from(STEP) + degrees / 2.0;
        ((long as u16 * STEP).min(self.most), middle.rem_euclid(360.0))
    }

    /// What a ray brings on the area, less the harm it does elsewhere.
    fn worth(&self, ground: &Ground, at: Point, ray: &[Point; POINTS]) -> f64 {
        let brings = |(from_head, water): (&Point, &f64)| {
            let cell = ground.grid.at(at + *from_head);
            match cell.map_or(Under::Open, |c| ground.under[c]) {
                Under::Area => *water,
                other => -water * harm(other).max(0.8),
            }
        };
        ray.iter().zip(&self.water).map(brings).sum()
    }
}

/// The highest of every so many neighbours in turn, in linear time: those that a later and higher one outlasts are
/// forgotten (Lemire 2006, "Streaming maximum-minimum filter").
fn highest(of: &[f64], many: usize) -> Vec<f64> {
    let mut kept: VecDeque<usize> = VecDeque::new();
    let mut out = Vec::with_capacity(of.len() + 1 - many);
    for (i, value) in of.iter().enumerate() {
        while kept.back().is_some_and(|k| of[*k] <= *value) {
            kept.pop_back();
        }
        kept.push_back(i);
        if kept.front().is_some_and(|k| k + many <= i) {
            kept.pop_front();
        }
        if i + 1 >= many {
            out.extend(kept.front().map(|k| of[*k]));
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::highest;

    #[test]
    fn the_highest_of_every_three_in_turn() {
        let of = [1.0, 4.0, 2.0, 3.0, 3.0, 0.0, -1.0];
        assert_eq!(highest(&of, 3), [4.0, 4.0, 3.0, 3.0, 3.0]);
        assert_eq!(highest(&of, 7), [4.0]);
        assert_eq!(highest(&of, 1), of);
    }
}

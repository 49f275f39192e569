use super::family::Family;
use super::field::harm;
use crate::coverage::{Ground, Profile, Under};
use crate::site::Point;

/// Degrees that arcs are set to.
pub(super) const STEP: u16 = 5;
const RAYS: usize = 360 / STEP as usize;

/// The arc, and the middle of it, that brings most of a throw on the area and least off it.
pub(super) fn arc(
    ground: &Ground,
    at: Point,
    throw: f64,
    profile: Profile,
    family: &Family<'_>,
) -> (u16, f64) {
    let (arcs, gap) = (family.arcs(), family.kind.arcs_not_made());
    let worth: Vec<f64> = (0..RAYS)
        .map(|i| worth(ground, at, throw, profile, (i as f64 + 0.5) * f64::from(STEP)))
        .collect();
    let all: f64 = worth.iter().sum();
    let lost: f64 = worth.iter().filter(|w| **w < 0.0).sum();
    let least = usize::from(arcs.0.div_ceil(STEP));
    // All round, unless that throws a noticeable part away.
    if arcs.1 >= 360 && -lost < 0.02 * all {
        return (360, 0.0);
    }
    let made = |arc: usize| gap.is_none_or(|(from, to)| arc < usize::from(from) || arc > usize::from(to));
    let mut sums = vec![0.0; 2 * RAYS + 1];
    for i in 0..2 * RAYS {
        sums[i + 1] = sums[i] + worth[i % RAYS];
    }
    let mut best = (f64::MIN, 0, least);
    for start in 0..RAYS {
        for long in (least..RAYS).filter(|long| made(long * usize::from(STEP))) {
            let gain = sums[start + long] - sums[start];
            if gain > best.0 + 1e-9 {
                best = (gain, start, long);
            }
        }
    }
    let (_, start, long) = best;
    let degrees = (long * usize::from(STEP)) as f64;
    (
        (long as u16 * STEP).min(arcs.1),
        (start as f64 * f64::from(STEP) + degrees / 2.0).rem_euclid(360.0),
    )
}

/// What a ray brings on the area, less the harm it does elsewhere.
fn worth(ground: &Ground, at: Point, throw: f64, profile: Profile, degrees: f64) -> f64 {
    const POINTS: usize = 10;
    let ray = Point::default().toward(degrees, throw);
    (0..POINTS)
        .map(|k| {
            let share = (k as f64 + 0.5) / POINTS as f64;
            let water = profile.at(share) * share;
            match ground
                .grid
                .at(at + ray * share)
                .map_or(Under::Open, |c| ground.under[c])
            {
                Under::Area => water,
                other => -water * harm(other).max(0.8),
            }
        })
        .sum()
}

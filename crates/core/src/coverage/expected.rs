//! What evenness the field will show: the catch-can grid again and again, with heads as they are set by
//! hands, in the wind of the hour.

use super::uniformity::lower_quarter;
use super::{Drift, Ground, Pattern, Source, Throw, Under, cell_for, ground};
use crate::catalogue::Kind;
use crate::plan::Plan;
use crate::site::Wind;
use crate::units::{Flow, Speed};
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;
use std::thread;

/// Repetitions for a figure that decides.
pub const REPETITIONS: usize = 30;
/// Repetitions while a hand moves a head: the mean is good to about a hundredth.
pub const WHILE_MOVING: usize = 6;

/// Evenness as audits find it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Expected {
    /// Mean of the distribution uniformity of the lower quarter over the repetitions, 0 to 1.
    pub du: f64,
    /// Their standard deviation.
    pub spread: f64,
    /// How many.
    pub repetitions: usize,
}

/// Ideal DU below which the layout is at fault, whatever the kind.
pub const FAULT_BELOW: f64 = 0.75;
/// Expected DU below which nobody should leave it, whatever the kind.
const POOR_BELOW: f64 = 0.50;

/// The expected DU that is aimed at for a kind: what audits find on sound layouts.
pub fn aim_of(kind: Kind) -> f64 {
    match kind {
        Kind::Rotator | Kind::RotatorShort => 0.70,
        Kind::RotorShort | Kind::RotorMid | Kind::RotorLarge | Kind::Stake => 0.65,
        _ => 0.60,
    }
}

/// What is to be said of an evenness.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Verdict {
    /// As aimed at, or within what one repetition differs from another.
    Good,
    /// Below the aim of its kind.
    Below,
    /// The layout is at fault, or the water lies poorly.
    Poor,
}

/// The verdict over an ideal and an expected DU of a kind of head.
pub fn verdict(ideal: f64, expected: &Expected, kind: Kind) -> Verdict {
    if ideal < FAULT_BELOW || expected.du < POOR_BELOW {
        Verdict::Poor
    } else if expected.du + expected.spread < aim_of(kind) {
        Verdict::Below
    } else {
        Verdict::Good
    }
}

/// How much heads of a kind differ, each figure one standard deviation (tilt: the most that it costs):
/// house rules, from what audits find on sound layouts.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Scatter {
    /// Flow, as a share.
    pub flow: f64,
    /// Throw, as a share.
    pub throw: f64,
    /// Place, metres.
    pub place: f64,
    /// Facing and arc, degrees.
    pub aim: f64,
    /// Throw lost to a head that leans, at the most, as a share.
    pub tilt: f64,
    /// Streaks: how far the water in one direction of an arc is off that of another, as a share.
    pub streaks: f64,
    /// How far its drops drift, against those of a rotor: fine drops fly far.
    pub drift: f64,
}

/// Streaks of rotators, rotors, sprays: set so that sound layouts come out as audits find them.
const STREAKS: [f64; 3] = [0.12, 0.05, 0.28];

impl Scatter {
    /// The scatter of a kind: flow and throw ±12 and ±10 % for sprays, ±8 and ±7 % for rotors, ±5 and ±5 %
    /// for rotators; for all of them ±6 in of place, ±8 degrees of facing and arc, a tilt that costs 0 to
    /// 8 % of the throw.
    pub fn of(kind: Kind) -> Self {
        let (flow, throw, streaks, drift) = match kind {
            Kind::Rotator | Kind::RotatorShort => (0.05, 0.05, STREAKS[0], 0.5),
            Kind::RotorShort | Kind::RotorMid | Kind::RotorLarge | Kind::Stake => {
                (0.08, 0.07, STREAKS[1], 1.0)
            }
            _ => (0.12, 0.10, STREAKS[2], 2.0),
        };
        Self { flow, throw, place: 0.1524, aim: 8.0, tilt: 0.08, streaks, drift }
    }
}

/// Degrees by which the wind turns from one repetition to the next.
const GOLDEN: f64 = 137.507_764;

/// Wind at the hours of watering: the middle of the site's class.
fn speed(wind: Wind) -> Speed {
    let mph = match wind {
        Wind::Calm => 1.5,
        Wind::Breeze => 5.5,
        Wind::Windy => 10.0,
    };
    Speed::from_fps(mph * 5280.0 / 3600.0)
}

/// Makes a standard deviation of 1 of the sum of four draws from 0 to 1: √3.
const NORMAL: f64 = 1.732_050_8;

/// Four waves of so much each, half of it over all directions, make one standard deviation: 1 / √2.
const HALF_OF_FOUR: f64 = std::f64::consts::FRAC_1_SQRT_2;

/// One head's own scatter in one repetition, in standard deviations (tilt from 0 to 1).
struct Draw {
    flow: f64,
    throw: f64,
    place: (f64, f64),
    facing: f64,
    arc: f64,
    tilt: f64,
    streaks: [f64; 4],
}

impl Draw {
    /// Always as many numbers, so that one head's figures do not shift the next one's.
    fn of(rng: &mut ChaCha8Rng) -> Self {
        // The sum of four even draws is as good as normal here, and never far out: at most 3.5 deviations.
        let mut off = || (0..4).map(|_| rng.random::<f64>()).sum::<f64>() * NORMAL - 2.0 * NORMAL;
        Self {
            flow: off(),
            throw: off(),
            place: (off(), off()),
            facing: off(),
            arc: off(),
            streaks: [off(), off(), off(), off()],
            tilt: rng.random(),
        }
    }

    fn set(&self, throw: &Throw, s: &Scatter) -> Throw {
        let reach = (1.0 + s.throw * self.throw) * (1.0 - s.tilt * self.tilt);
        let at = throw.at + crate::site::Point::new(self.place.0, self.place.1) * s.place;
        Throw {
            at,
            facing: throw.facing + s.aim * self.facing,
            reach: throw.reach * reach,
            pattern: match throw.pattern {
                Pattern::Sector(arc) if arc < 360.0 => {
                    Pattern::Sector((arc + s.aim * self.arc).clamp(5.0, 359.0))
                }
                Pattern::Sector(arc) => Pattern::Sector(arc),
                Pattern::Strip { back, reach: r, half } => {
                    Pattern::Strip { back: back * reach, reach: r * reach, half: half * reach }
                }
            },
            flow: throw.flow * (1.0 + s.flow * self.flow).max(0.1),
            streaks: self.streaks.map(|x| (x * s.streaks * HALF_OF_FOUR) as f32),
            ..*throw
        }
    }
}

/// Expected uniformity of an area's heads, seeded: the same heads always give the same figure.
///
/// In each repetition every head is off by its kind's scatter and the site's wind blows from another
/// side; DU is the mean of the lowest quarter of the cells over the mean of all. Heads off their pressure
/// throw as they do there: below the band the doughnut, over nominal and a quarter fog that drifts away,
/// shorter throws and weak edges. A pattern off its pressure is never credited with more evenness than at
/// nominal, and nothing with more than perfect heads have. `repetitions` from 1 up; 30 for a figure that
/// decides. None where the area gets no water.
///
/// # Source
/// Ranges of audits as practitioners report them: sprays 0.50 to 0.65, rotors 0.60 to 0.70, rotators 0.70
/// to 0.80 on sound layouts. Lower quarter: Merriam and Keller (1978).
pub fn expected(plan: &Plan, area: &str, sources: &[Source<'_>], repetitions: usize) -> Option<Expected> {
    let wind = speed(plan.site.area(area)?.wind);
    let scatters: Vec<Scatter> = sources.iter().map(|s| Scatter::of(s.class.kind)).collect();
    let as_is: Vec<Throw> = sources.iter().map(Source::throw_in_field).collect();
    let nominal: Vec<Throw> = sources.iter().map(Source::throw_at_nominal).collect();
    let ground = around(plan, area, &nominal)?;
    let inside: Vec<usize> = (0..ground.under.len()).filter(|c| ground.under[*c] == Under::Area).collect();
    let du = |throws: &[Throw], drifts: &[Option<Drift>]| evenness(&ground, &inside, throws, drifts);
    let still = vec![None; sources.len()];
    let off = as_is.iter().zip(&nominal).any(|(a, b)| a != b);
    let ideal = du(&as_is, &still)?;
    let ideal = if off { ideal.min(du(&nominal, &still).unwrap_or(1.0)) } else { ideal };
    let repetition = |r: usize| {
        let mut rng = ChaCha8Rng::seed_from_u64(r as u64);
        // Sides spread evenly over the repetitions, by the golden angle.
        let side = r as f64 * GOLDEN;
        let drifts = |throws: &[Throw]| -> Vec<Option<Drift>> {
            let each = throws.iter().zip(&scatters);
            each.map(|(t, s)| Drift::new(wind * (s.drift * (1.0 + FOG_DRIFTS * t.fog)), side)).collect()
        };
        let draws: Vec<Draw> = sources.iter().map(|_| Draw::of(&mut rng)).collect();
        let set = |throws: &[Throw]| -> Vec<Throw> {
            let each = throws.iter().zip(&draws).zip(&scatters);
            each.map(|((t, d), s)| d.set(t, s)).collect()
        };
        let found = du(&set(&as_is), &drifts(&as_is)).unwrap_or(0.0);
        if off { found.min(du(&set(&nominal), &drifts(&nominal)).unwrap_or(0.0)) } else { found }
    };
    let found = side_by_side(repetitions.max(1), ground.under.len() * sources.len(), &repetition);
    let n = found.len() as f64;
    let mean = found.iter().sum::<f64>() / n;
    let spread = (found.iter().map(|d| (d - mean).powi(2)).sum::<f64>() / n).sqrt();
    Some(Expected { du: mean.min(ideal), spread, repetitions: found.len() })
}

/// Work from which threads pay, cells times heads.
const WORTH_THREADS: usize = 200_000;

/// All repetitions in their order, on as many threads as there are, if the work is worth it.
fn side_by_side(n: usize, work: usize, one: &(dyn Fn(usize) -> f64 + Sync)) -> Vec<f64> {
    let threads = thread::available_parallelism().map_or(1, usize::from).min(n);
    if threads < 2 || work * n < WORTH_THREADS {
        return (0..n).map(one).collect();
    }
    let mut found = vec![0.0; n];
    thread::scope(|scope| {
        for (i, part) in found.chunks_mut(n.div_ceil(threads)).enumerate() {
            let first = i * n.div_ceil(threads);
            scope.spawn(move || {
                for (k, slot) in part.iter_mut().enumerate() {
                    *slot = one(first + k);
                }
            });
        }
    });
    found
}

/// The area with room for all that is thrown off it, so that every throw's water is on the grid: the same
/// cells whatever the pressure, so that figures at two pressures differ by the pressure alone.
fn around(plan: &Plan, area: &str, throws: &[Throw]) -> Option<Ground> {
    let shape = &plan.site.area(area)?.shape;
    let far = throws.iter().map(Throw::furthest).fold(0.0, f64::max);
    let cell = cell_for(shape);
    ground(&plan.site, area, cell, (far * 1.7).min(60.0) + cell)
}

fn evenness(ground: &Ground, inside: &[usize], throws: &[Throw], drifts: &[Option<Drift>]) -> Option<f64> {
    let mut lpm = vec![0.0f32; ground.grid.len()];
    let mut shares = Vec::new();
    for (throw, drift) in throws.iter().zip(drifts) {
        throw.shares(&ground.grid, *drift, &mut shares);
        let q = throw.flow.lpm() as f32;
        for (cell, share) in &shares {
            lpm[*cell as usize] += q * share;
        }
    }
    let catch: Vec<f32> = inside.iter().map(|c| lpm[*c]).collect();
    let (low, mean) = lower_quarter(&catch)?;
    (mean > 0.0).then(|| low / mean)
}

impl Source<'_> {
    /// It as it throws in the field at its pressure: over nominal and a quarter part of it goes up as fog.
    pub fn throw_in_field(&self) -> Throw {
        let throw = self.throw();
        let Some((pressure, _)) = self.solved else {
            return throw;
        };
        let fog = fog(pressure / self.class.nominal);
        Throw {
            flow: throw.flow * (1.0 - fog),
            reach: throw.reach * (1.0 - FOG_SHORTENS * fog),
            fog,
            ..throw
        }
    }

    /// It as it would throw at nominal pressure.
    pub fn throw_at_nominal(&self) -> Throw {
        let flow: Flow = self.nozzle.flow_set(self.head.arc, self.head.radius);
        Throw::of(self.nozzle, self.class, self.head, self.class.nominal, flow)
    }
}

/// How much shorter a throw gets with the share of it that is fog: an eighth where a quarter is.
const FOG_SHORTENS: f64 = 0.5;
/// How much farther its drops drift: three times as far where a quarter is fog.
const FOG_DRIFTS: f64 = 8.0;

/// Share of the water that drifts away as fog: none up to nominal and a quarter, a quarter at twice
/// nominal and beyond.
fn fog(share_of_nominal: f64) -> f64 {
    0.25 * ((share_of_nominal - 1.25) / 0.75).clamp(0.0, 1.0)
}

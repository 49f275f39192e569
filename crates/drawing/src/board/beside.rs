//! Pipes that lie in one trench, drawn beside one another: upon one another, the last would hide the rest,
//! and none but it could be picked.

use fenlo_core::job::Job;
use fenlo_core::plan::{LegOf, PipeLeg};
use fenlo_core::site::Point;

/// From one pipe to the next of a trench, as drawn, m.
const STEP: f64 = 0.25;
/// Pipes nearer than this to one another would be drawn upon one another, m.
const UPON: f64 = 0.1;
/// Cosine of the widest angle between them: 3 degrees.
const ALONG: f64 = 0.9986;

/// Pipes step aside to this side of a trench, whichever way they are drawn: square to hardly any, so that a
/// breath of slope does not change the side.
const ASIDE: Point = Point::new(0.3, 0.95);

/// A main, or the laterals of a valve.
struct Run<'a> {
    of: &'a LegOf,
    stretches: Vec<(Point, Point)>,
    /// Corners of what it spans.
    low: Point,
    high: Point,
}

impl Run<'_> {
    /// The stretch of a line, as shares of it, that any of it lies upon.
    fn upon(&self, a: Point, b: Point) -> Vec<(f64, f64)> {
        let far = a.x.max(b.x) + UPON < self.low.x
            || a.x.min(b.x) - UPON > self.high.x
            || a.y.max(b.y) + UPON < self.low.y
            || a.y.min(b.y) - UPON > self.high.y;
        if far {
            return Vec::new();
        }
        let stretches = self.stretches.iter();
        stretches.filter_map(|(p, q)| upon(a, b, *p, *q)).collect()
    }
}

/// The mains and laterals of a job, in the order in which they are drawn.
pub struct Beside<'a>(Vec<Run<'a>>);

impl<'a> Beside<'a> {
    /// Of a job: mains first, then laterals by valve.
    pub fn of(job: &'a Job) -> Self {
        let mut runs: Vec<Run<'a>> = Vec::new();
        let mut legs: Vec<&PipeLeg> = job.piping.legs.iter().collect();
        let rank = |leg: &PipeLeg| match &leg.of {
            LegOf::Main(supply) => (false, job.supplies.iter().position(|s| s.id == *supply)),
            LegOf::Lateral(valve) => (true, job.valves.iter().position(|v| v.id == *valve)),
        };
        legs.sort_by_key(|leg| rank(leg));
        for leg in legs {
            let way = job.way_of(leg).unwrap_or_default();
            if runs.last().is_none_or(|run| *run.of != leg.of) {
                runs.push(Run {
                    of: &leg.of,
                    stretches: Vec::new(),
                    low: Point::new(f64::INFINITY, f64::INFINITY),
                    high: Point::new(f64::NEG_INFINITY, f64::NEG_INFINITY),
                });
            }
            let Some(run) = runs.last_mut() else { continue };
            for p in &way {
                run.low = Point::new(run.low.x.min(p.x), run.low.y.min(p.y));
                run.high = Point::new(run.high.x.max(p.x), run.high.y.max(p.y));
            }
            run.stretches.extend(way.windows(2).map(|w| (w[0], w[1])));
        }
        Self(runs)
    }

    /// A way of a main or lateral as it is drawn: beside whatever is drawn before it in the same trench.
    pub(super) fn drawn(&self, of: &LegOf, way: &[Point]) -> Vec<Point> {
        let before: Vec<&Run> = self.0.iter().take_while(|run| run.of != of).collect();
        let mut drawn: Vec<Point> = way.first().copied().into_iter().collect();
        for w in way.windows(2) {
            let Some(along) = (w[1] - w[0]).unit() else {
                continue;
            };
            let side = along.left();
            let side = if side.dot(ASIDE) < 0.0 { side * -1.0 } else { side };
            let beneath: Vec<Vec<(f64, f64)>> = before.iter().map(|run| run.upon(w[0], w[1])).collect();
            let mut cuts: Vec<f64> = beneath.iter().flatten().flat_map(|(s, t)| [*s, *t]).collect();
            cuts.extend([0.0, 1.0]);
            cuts.sort_by(f64::total_cmp);
            for piece in cuts.windows(2).filter(|c| c[1] - c[0] > 1e-6) {
                let middle = f64::midpoint(piece[0], piece[1]);
                let lies = |upon: &&Vec<(f64, f64)>| upon.iter().any(|(s, t)| (*s..=*t).contains(&middle));
                let lane = beneath.iter().filter(lies).count() as f64;
                for share in piece {
                    let at = w[0] + (w[1] - w[0]) * *share + side * (lane * STEP);
                    if drawn.last().is_none_or(|last| last.distance(at) > 1e-6) {
                        drawn.push(at);
                    }
                }
            }
        }
        // It begins and ends where it is joined.
        drawn.extend(way.last().filter(|end| drawn.last() != Some(end)));
        drawn
    }
}

/// The stretch of a line, as shares of it, that lies upon another.
fn upon(a: Point, b: Point, p: Point, q: Point) -> Option<(f64, f64)> {
    let (along, other) = ((b - a).unit()?, (q - p).unit()?);
    if along.dot(other).abs() < ALONG {
        return None;
    }
    let long = a.distance(b);
    let (s, t) = ((p - a).dot(along) / long, (q - a).dot(along) / long);
    let (s, t) = (s.min(t).max(0.0), s.max(t).min(1.0));
    let off = |share: f64| (a + (b - a) * share - p).cross(other).abs();
    (t - s > 1e-6 && off(s) < UPON && off(t) < UPON).then_some((s, t))
}

#[cfg(test)]
mod tests;

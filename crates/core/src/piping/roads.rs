//! Ways over the ground: straight where that may be dug, else round corners and through crossings.
//! A shortest way among corners is a shortest way on the ground (Lozano-Perez and Wesley 1979).

use crate::earthwork::{Ground, Portal};
use crate::site::Point;
use std::cmp::Ordering;
use std::collections::BinaryHeap;

/// Corners further apart than this are not joined directly, m: another lies between.
const FAR: f64 = 90.0;

/// A way from one point to another.
#[derive(Debug, Clone, PartialEq)]
pub struct Way {
    /// As metres of plain trench.
    pub cost: f64,
    /// Points along it, both ends too.
    pub points: Vec<Point>,
    /// Whether each stretch between two of them crosses paving in a sleeve.
    pub sleeved: Vec<bool>,
}

/// A step from one point of the network of ways to another.
#[derive(Debug, Clone, Copy)]
struct Step {
    to: usize,
    cost: f64,
    sleeve: bool,
}

/// Corners and crossings with what joins them.
pub struct Roads<'g> {
    pub(super) ground: &'g Ground,
    points: Vec<Point>,
    steps: Vec<Vec<Step>>,
}

/// A point joined to the corners that it sees.
#[derive(Debug, Clone)]
pub struct Stop {
    pub(super) at: Point,
    sees: Vec<(usize, f64)>,
}

impl<'g> Roads<'g> {
    /// Corners and crossings of the ground, and the crossings that lie straight before some points.
    pub fn new(ground: &'g Ground, before: &[Point]) -> Self {
        let mut points = ground.corners.clone();
        let mut portals: Vec<Portal> = ground.portals.clone();
        portals.extend(before.iter().flat_map(|p| ground.portals_from(*p)));
        let first = points.len();
        points.extend(portals.iter().flat_map(|p| [p.from, p.to]));
        let mut steps: Vec<Vec<Step>> = vec![Vec::new(); points.len()];
        for a in 0..points.len() {
            for b in a + 1..points.len() {
                let own = a >= first && (a - first).is_multiple_of(2) && b == a + 1;
                let cost = if own {
                    Some(ground.crossing(portals[(a - first) / 2]))
                } else if points[a].distance(points[b]) > FAR {
                    None
                } else {
                    ground.trench(points[a], points[b])
                };
                if let Some(cost) = cost {
                    steps[a].push(Step { to: b, cost, sleeve: own });
                    steps[b].push(Step { to: a, cost, sleeve: own });
                }
            }
        }
        Self { ground, points, steps }
    }

    /// Joins a point to the corners that it sees.
    pub fn stop(&self, at: Point) -> Stop {
        let see =
            |(i, p): (usize, &Point)| (p.distance(at) <= FAR).then(|| Some((i, self.ground.trench(at, *p)?)));
        Stop { at, sees: self.points.iter().enumerate().filter_map(see).flatten().collect() }
    }

    /// The cheapest way; none where there is none.
    pub fn way(&self, from: &Stop, to: &Stop) -> Option<Way> {
        self.ways(from, &[to]).pop().flatten()
    }

    /// The cheapest ways from one point to several, found in one go (Dijkstra 1959).
    pub fn ways(&self, from: &Stop, to: &[&Stop]) -> Vec<Option<Way>> {
        let direct = |to: &&Stop| {
            let cost = self.ground.trench(from.at, to.at)?;
            Some(Way { cost, points: vec![from.at, to.at], sleeved: vec![false] })
        };
        let mut found: Vec<Option<Way>> = to.iter().map(direct).collect();
        // Over plain ground nothing is cheaper than straight; roots and lawns may be worth going round.
        let plain = |i: usize, way: &Option<Way>| {
            let straight = from.at.distance(to[i].at);
            way.as_ref().is_some_and(|w| w.cost <= straight + 1e-6)
        };
        let open: Vec<usize> = (0..to.len()).filter(|i| !plain(*i, &found[*i])).collect();
        if open.is_empty() {
            return found;
        }
        // Cheapest so far to each, and the corner before it.
        let mut least: Vec<(f64, Option<usize>)> =
            found.iter().map(|w| (w.as_ref().map_or(f64::INFINITY, |w| w.cost), None)).collect();
        let mut ends: Vec<Vec<(usize, f64)>> = vec![Vec::new(); self.points.len()];
        for &t in &open {
            for &(i, cost) in &to[t].sees {
                ends[i].push((t, cost));
            }
        }
        let mut best: Vec<f64> = vec![f64::INFINITY; self.points.len()];
        let mut via: Vec<Option<(usize, bool)>> = vec![None; self.points.len()];
        let mut queue = BinaryHeap::new();
        for &(i, cost) in &from.sees {
            best[i] = cost;
            queue.push(Waiting { cost, at: i });
        }
        while let Some(Waiting { cost, at }) = queue.pop() {
            if cost > best[at] {
                continue;
            }
            if open.iter().all(|t| cost >= least[*t].0) {
                break;
            }
            for &(t, more) in &ends[at] {
                if cost + more < least[t].0 {
                    least[t] = (cost + more, Some(at));
                }
            }
            for step in &self.steps[at] {
                let there = cost + step.cost;
                if there < best[step.to] - 1e-9 {
                    best[step.to] = there;
                    via[step.to] = Some((at, step.sleeve));
                    queue.push(Waiting { cost: there, at: step.to });
                }
            }
        }
        for t in open {
            if let (cost, Some(last)) = least[t] {
                found[t] = Some(self.trace(from, to[t], &via, last, cost));
            }
        }
        found
    }

    fn trace(&self, from: &Stop, to: &Stop, via: &[Option<(usize, bool)>], last: usize, cost: f64) -> Way {
        let (mut points, mut sleeved) = (vec![to.at], vec![false]);
        let mut at = last;
        loop {
            points.push(self.points[at]);
            let Some((before, sleeve)) = via[at] else { break };
            sleeved.push(sleeve);
            at = before;
        }
        sleeved.push(false);
        points.push(from.at);
        points.reverse();
        sleeved.reverse();
        Way { cost, points, sleeved }
    }
}

struct Waiting {
    cost: f64,
    at: usize,
}
impl PartialEq for Waiting {
    fn eq(&self, other: &Self) -> bool {
        self.cmp(other) == Ordering::Equal
    }
}
impl Eq for Waiting {}
impl PartialOrd for Waiting {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}
impl Ord for Waiting {
    fn cmp(&self, other: &Self) -> Ordering {
        other.cost.total_cmp(&self.cost).then(other.at.cmp(&self.at))
    }
}

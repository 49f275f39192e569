//! Laterals in one another's trenches: the cheapest whole, not each lateral's cheapest. A second pipe in a
//! trench costs its pipe alone, so a zone further off may follow the trench of a nearer one.
//!
//! Each lateral in turn takes the cheapest of its ways, where what the others have dug is free, until none
//! changes: the sum falls with every change, so it ends.

use super::dug::Dug;
use super::lateral::{Laid, Options, fed_by, foot};
use super::roads::{Roads, Way};
use super::tree::{Tree, TreeEdge};
use crate::earthwork::Stretch;
use crate::site::{Point, to_segment};

#[cfg(test)]
mod tests;

/// Times that every lateral is looked at.
const ROUNDS: usize = 4;
/// Trenches further from a lateral than this, m, are not for it to follow.
const REACH: f64 = 15.0;
/// Stretches of the heads' tree that a way along trenches is tried to.
const TRIED: usize = 3;
/// A box this near to a trench stands on it, m.
const AT_BOX: f64 = 0.6;
/// Points of trenches that are one, m.
const SAME: f64 = 0.05;
/// Costs that differ by less are the same.
const WORTH: f64 = 1e-6;

/// A lateral with what was chosen for it.
pub(super) struct Planned<'a> {
    pub(super) options: Options<'a>,
    pub(super) chosen: Option<Laid>,
}

impl Planned<'_> {
    /// Of all that is dug what lies in this lateral's reach.
    fn near(&self, dug: impl Iterator<Item = Stretch>) -> Dug {
        let own = || std::iter::once(&self.options.start).chain(&self.options.among.points);
        let least = |of: fn(&Point) -> f64| own().map(of).fold(f64::INFINITY, f64::min) - REACH;
        let most = |of: fn(&Point) -> f64| own().map(of).fold(f64::NEG_INFINITY, f64::max) + REACH;
        let (left, right) = (least(|p| p.x), most(|p| p.x));
        let (low, high) = (least(|p| p.y), most(|p| p.y));
        let reached = |s: &Stretch| {
            s.a.x.max(s.b.x) >= left
                && s.a.x.min(s.b.x) <= right
                && s.a.y.max(s.b.y) >= low
                && s.a.y.min(s.b.y) <= high
        };
        Dug(dug.filter(reached).collect())
    }

    fn stretches(&self) -> impl Iterator<Item = Stretch> + '_ {
        self.chosen.iter().flat_map(|laid| {
            let at = |i: usize| laid.tree.points[i];
            let stretch = move |e: &TreeEdge| Stretch { a: at(e.a), b: at(e.b), sleeve: e.sleeve };
            laid.tree.edges.iter().map(stretch)
        })
    }

    /// Takes the cheapest way where this is dug; true if that is another than before.
    fn choose(&mut self, roads: &Roads<'_>, dug: &Dug) -> bool {
        let judge = &self.options.judge;
        let cost = |laid: &Laid| judge.cost(laid, dug);
        let now = self.chosen.as_ref().map_or(f64::INFINITY, cost);
        let followed = along_trenches(roads, &self.options, dug);
        let followed = followed.into_iter().map(|tree| judge.judge(tree));
        let best = followed
            .chain(self.options.laid.iter().cloned())
            .map(|laid| (cost(&laid), laid))
            .min_by(|a, b| a.0.total_cmp(&b.0));
        match best {
            Some((cost, laid)) if cost < now - WORTH => {
                self.chosen = Some(laid);
                true
            }
            _ => false,
        }
    }
}

/// Chooses for every lateral, beside trenches that stand whatever is chosen.
pub(super) fn choose_together(roads: &Roads<'_>, all: &mut [Planned<'_>], fixed: &[Stretch]) {
    for _ in 0..ROUNDS {
        let mut changed = false;
        for i in 0..all.len() {
            let others = (0..all.len()).filter(|k| *k != i).flat_map(|k| all[k].stretches());
            let dug = all[i].near(others.chain(fixed.iter().copied()));
            changed |= all[i].choose(roads, &dug);
        }
        if !changed {
            break;
        }
    }
}

/// The heads' own tree fed along trenches that are dug, as far as that pays.
fn along_trenches(roads: &Roads<'_>, options: &Options<'_>, dug: &Dug) -> Vec<Tree> {
    let among = &options.among;
    let net = Net::of(dug, among);
    let Some(first) = net.nearest(options.start) else {
        return Vec::new();
    };
    let (far, before) = net.from(first);
    let pipe = options.judge.pipe_for_trench();
    // Of a stretch of the heads' tree: the least that its feed can cost, and where that leaves the trenches.
    let end = |edge: Option<usize>| {
        let (p, q) = match edge.map(|e| among.edges[e]) {
            Some(e) => (among.points[e.a], among.points[e.b]),
            None => (among.points[0], among.points[0]),
        };
        let least = |i: usize| pipe * far[i] + (1.0 + pipe) * to_segment(net.points[i], p, q);
        let reached = (0..net.points.len()).filter(|i| far[*i].is_finite());
        let best = reached.min_by(|a, b| least(*a).total_cmp(&least(*b)))?;
        Some((least(best), edge, best))
    };
    let stretches = (0..among.edges.len()).filter(|e| !among.edges[*e].sleeve);
    let mut ends: Vec<(f64, Option<usize>, usize)> = match among.points.len() {
        0 => Vec::new(),
        1 => end(None).into_iter().collect(),
        _ => stretches.filter_map(|e| end(Some(e))).collect(),
    };
    ends.sort_by(|a, b| a.0.total_cmp(&b.0));
    let fed = |&(_, edge, leaves): &(f64, Option<usize>, usize)| {
        let mut way = net.way(options.start, leaves, &before);
        let to = edge.map_or(among.points[0], |e| foot(among, e, net.points[leaves]));
        let from = way.points[way.points.len() - 1];
        if from.distance(to) >= SAME {
            roads.ground.trench(from, to)?;
            way.points.push(to);
            way.sleeved.push(false);
        }
        (way.points.len() > 1).then(|| fed_by(roads, among, edge, &way))
    };
    ends.iter().take(TRIED).filter_map(fed).collect()
}

/// Dug trenches as a network of points.
struct Net {
    points: Vec<Point>,
    /// Of every point those next to it, with whether a sleeve lies between.
    next: Vec<Vec<(usize, bool)>>,
}

impl Net {
    /// Trenches cut where others end on them, and where heads lie nearest.
    fn of(dug: &Dug, among: &Tree) -> Self {
        let mut net = Self { points: Vec::new(), next: Vec::new() };
        for s in &dug.0 {
            let along = s.b - s.a;
            let long = along.dot(along);
            if long < SAME * SAME {
                continue;
            }
            let share = |p: Point| ((p - s.a).dot(along) / long).clamp(0.0, 1.0);
            let mut cuts: Vec<f64> = vec![0.0, 1.0];
            let on = |p: &Point| to_segment(*p, s.a, s.b) < SAME;
            cuts.extend(dug.0.iter().flat_map(|o| [o.a, o.b]).filter(on).map(share));
            let off = |p: &Point| to_segment(*p, s.a, s.b);
            let heads = among.points.iter().take(among.given);
            let nearest = heads.min_by(|a, b| off(a).total_cmp(&off(b)));
            cuts.extend(nearest.map(|p| share(*p)));
            cuts.sort_by(f64::total_cmp);
            let places: Vec<usize> = cuts.iter().map(|t| net.place(s.a + along * *t)).collect();
            for w in places.windows(2).filter(|w| w[0] != w[1]) {
                net.next[w[0]].push((w[1], s.sleeve));
                net.next[w[1]].push((w[0], s.sleeve));
            }
        }
        net
    }

    fn place(&mut self, at: Point) -> usize {
        let known = self.points.iter().position(|p| p.distance(at) < SAME);
        known.unwrap_or_else(|| {
            self.points.push(at);
            self.next.push(Vec::new());
            self.points.len() - 1
        })
    }

    /// The point at a box.
    fn nearest(&self, at: Point) -> Option<usize> {
        let far = |i: &usize| self.points[*i].distance(at);
        (0..self.points.len()).filter(|i| far(i) < AT_BOX).min_by(|a, b| far(a).total_cmp(&far(b)))
    }

    /// How far every point is along trenches, and the one before it (Dijkstra 1959).
    fn from(&self, first: usize) -> (Vec<f64>, Vec<Option<usize>>) {
        let mut far = vec![f64::INFINITY; self.points.len()];
        let mut before = vec![None; self.points.len()];
        let mut open: Vec<usize> = (0..self.points.len()).collect();
        far[first] = 0.0;
        while let Some(k) = (0..open.len()).min_by(|a, b| far[open[*a]].total_cmp(&far[open[*b]])) {
            let at = open.swap_remove(k);
            if far[at].is_infinite() {
                break;
            }
            for &(to, _) in &self.next[at] {
                let there = far[at] + self.points[at].distance(self.points[to]);
                if there < far[to] - 1e-9 {
                    (far[to], before[to]) = (there, Some(at));
                }
            }
        }
        (far, before)
    }

    /// The way to a point, from a box.
    fn way(&self, start: Point, to: usize, before: &[Option<usize>]) -> Way {
        let (mut places, mut at) = (vec![to], to);
        while let Some(earlier) = before[at] {
            places.push(earlier);
            at = earlier;
        }
        places.reverse();
        let mut way = Way { cost: 0.0, points: vec![start], sleeved: Vec::new() };
        let mut last: Option<usize> = None;
        for place in places {
            let sleeve = last.is_some_and(|l| self.next[l].contains(&(place, true)));
            if self.points[place].distance(way.points[way.points.len() - 1]) >= SAME {
                way.points.push(self.points[place]);
                way.sleeved.push(sleeve);
            }
            last = Some(place);
        }
        way
    }
}

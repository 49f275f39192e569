//! The split by place: heads of a class cut into zones that lie together, short in pipe.
//!
//! The class is halved again and again, by flow, along the line that leaves both halves the least pipe
//! (recursive bisection, Berger and Bokhari 1987), or where its own shortest connection has its longest
//! leg; then heads change over to a neighbouring zone while that saves pipe.

use super::class::Class;
use crate::earthwork::Ground;
use crate::job::Job;
use crate::site::Point;

/// What lies between two heads with paving or a wall between them, as so much more pipe, m.
const BARRIER: f64 = 8.0;
/// Directions in which a class is cut.
const DIRECTIONS: usize = 12;
/// Classes from so many heads on are cut without looking at every barrier.
const MANY: usize = 400;
/// A zone may come to so much more than an even share.
const UNEVEN: f64 = 1.12;
/// Share of the flow by which a natural gap may lie off the even cut.
const GAP_OFF: f64 = 0.10;

/// Heads with their places.
pub(super) struct Places {
    points: Vec<Point>,
    flows: Vec<f64>,
    /// Distances with barriers, row by row; empty where there are too many heads.
    apart: Vec<f64>,
}

impl Places {
    /// Of a class whose heads all have places; none else.
    pub(super) fn of(job: &Job, class: &Class<'_>) -> Option<Self> {
        let points: Vec<Point> = class.iter().map(|c| c.at).collect::<Option<_>>()?;
        let n = points.len();
        let mut apart = Vec::new();
        if n <= MANY {
            let ground = Ground::of(job);
            apart = vec![0.0; n * n];
            for a in 0..n {
                for b in a + 1..n {
                    let barred = ground.trench(points[a], points[b]).is_none();
                    let d = points[a].distance(points[b]) + if barred { BARRIER } else { 0.0 };
                    (apart[a * n + b], apart[b * n + a]) = (d, d);
                }
            }
        }
        Some(Self { flows: class.iter().map(|c| c.flow.lpm()).collect(), points, apart })
    }

    fn apart(&self, a: usize, b: usize) -> f64 {
        match self.apart.get(a * self.points.len() + b) {
            Some(d) => *d,
            None => self.points[a].distance(self.points[b]),
        }
    }

    fn flow(&self, heads: &[usize]) -> f64 {
        heads.iter().map(|i| self.flows[*i]).sum()
    }

    /// The shortest connection of some heads: legs as (length, one, other), parents before children.
    fn span(&self, heads: &[usize]) -> Vec<(f64, usize, usize)> {
        let mut open: Vec<(f64, usize, usize)> = match heads.split_first() {
            Some((first, rest)) => rest.iter().map(|i| (self.apart(*first, *i), *first, *i)).collect(),
            None => return Vec::new(),
        };
        let mut legs = Vec::with_capacity(open.len());
        while let Some(next) = (0..open.len()).min_by(|a, b| open[*a].0.total_cmp(&open[*b].0)) {
            let leg = open.swap_remove(next);
            legs.push(leg);
            for (near, from, to) in &mut open {
                let d = self.apart(leg.2, *to);
                if d < *near {
                    (*near, *from) = (d, leg.2);
                }
            }
        }
        legs
    }

    fn pipe(&self, heads: &[usize]) -> f64 {
        self.span(heads).iter().map(|l| l.0).sum()
    }

    /// Some heads on `n` zones of about even flow, each as close together as they come.
    pub(super) fn zones(&self, heads: Vec<usize>, n: usize) -> Vec<Vec<usize>> {
        let n = n.clamp(1, heads.len().max(1));
        let few = heads.len() <= MANY;
        let mut zones = self.halve(heads, n);
        if few {
            self.change_over(&mut zones);
        }
        zones
    }

    /// The shortest way from some heads to others, m.
    pub(super) fn nearest(&self, some: &[usize], others: &[usize]) -> f64 {
        let pairs = some.iter().flat_map(|a| others.iter().map(move |b| (*a, *b)));
        pairs.map(|(a, b)| self.apart(a, b)).fold(f64::MAX, f64::min)
    }

    fn halve(&self, heads: Vec<usize>, n: usize) -> Vec<Vec<usize>> {
        if n < 2 || heads.len() < 2 {
            return vec![heads];
        }
        let left = n / 2;
        let share = self.flow(&heads) * left as f64 / n as f64;
        let mut best: Option<(f64, Vec<usize>, Vec<usize>)> = None;
        let mut consider = |a: Vec<usize>, b: Vec<usize>| {
            if a.len() < left || b.len() < n - left {
                return;
            }
            let cost = if heads.len() > MANY {
                self.girth(&a) + self.girth(&b)
            } else {
                self.pipe(&a) + self.pipe(&b)
            };
            if best.as_ref().is_none_or(|x| cost < x.0 - 1e-9) {
                best = Some((cost, a, b));
            }
        };
        for k in 0..DIRECTIONS {
            let along = Point::default().toward(180.0 * k as f64 / DIRECTIONS as f64, 1.0);
            let mut sorted = heads.clone();
            sorted.sort_by(|a, b| {
                let at = |i: usize| self.points[i].dot(along);
                at(*a).total_cmp(&at(*b)).then(a.cmp(b))
            });
            let mut sum = 0.0;
            let mut cut = 0;
            while cut < sorted.len() && sum + self.flows[sorted[cut]] / 2.0 < share {
                sum += self.flows[sorted[cut]];
                cut += 1;
            }
            let cut = cut.clamp(left, heads.len() - (n - left));
            consider(sorted[..cut].to_vec(), sorted[cut..].to_vec());
            // The other way round the smaller part lies at the other end.
            let mut sum = 0.0;
            let mut cut = sorted.len();
            while cut > 0 && sum + self.flows[sorted[cut - 1]] / 2.0 < share {
                cut -= 1;
                sum += self.flows[sorted[cut]];
            }
            let cut = cut.clamp(n - left, heads.len() - left);
            consider(sorted[cut..].to_vec(), sorted[..cut].to_vec());
        }
        if heads.len() <= MANY {
            for (a, b) in self.gaps(&heads, share) {
                consider(a, b);
            }
        }
        let Some((_, a, b)) = best else { return vec![heads] };
        let mut zones = self.halve(a, left);
        zones.extend(self.halve(b, n - left));
        zones
    }

    /// Cuts through single legs of the shortest connection that leave about the share on one side.
    fn gaps(&self, heads: &[usize], share: f64) -> Vec<(Vec<usize>, Vec<usize>)> {
        let legs = self.span(heads);
        let total = self.flow(heads);
        let mut found = Vec::new();
        for (k, leg) in legs.iter().enumerate() {
            // Legs come in the order of growth, so what hangs behind one comes after it.
            let mut side = vec![leg.2];
            for later in &legs[k + 1..] {
                if side.contains(&later.1) {
                    side.push(later.2);
                }
            }
            let flow = self.flow(&side);
            for off in [(flow - share).abs(), (total - flow - share).abs()] {
                if off <= GAP_OFF * share {
                    let rest: Vec<usize> = heads.iter().copied().filter(|i| !side.contains(i)).collect();
                    if (flow - share).abs() <= off {
                        found.push((side.clone(), rest));
                    } else {
                        found.push((rest, side.clone()));
                    }
                    break;
                }
            }
        }
        found
    }

    /// Half the way round the heads, for classes too large to connect at every cut.
    fn girth(&self, heads: &[usize]) -> f64 {
        let (mut low, mut high) = (Point::new(f64::MAX, f64::MAX), Point::new(f64::MIN, f64::MIN));
        for p in heads.iter().map(|i| self.points[*i]) {
            low = Point::new(low.x.min(p.x), low.y.min(p.y));
            high = Point::new(high.x.max(p.x), high.y.max(p.y));
        }
        (high.x - low.x) + (high.y - low.y)
    }

    /// Lets heads change over to a neighbouring zone while that saves pipe and keeps flows even.
    fn change_over(&self, zones: &mut [Vec<usize>]) {
        if zones.len() < 2 {
            return;
        }
        let mut heads: Vec<usize> = zones.iter().flatten().copied().collect();
        heads.sort_unstable();
        let even = self.flow(&heads) / zones.len() as f64;
        let largest = zones.iter().map(|z| self.flow(z)).fold(0.0, f64::max);
        let most = largest.min(even * UNEVEN).max(even);
        for _ in 0..4 {
            let mut changed = false;
            for &head in &heads {
                let Some(home) = zones.iter().position(|z| z.contains(&head)) else {
                    continue;
                };
                if zones[home].len() < 2 {
                    continue;
                }
                let nearest = |zone: &Vec<usize>| {
                    let d = zone.iter().filter(|i| **i != head).map(|i| self.apart(head, *i));
                    d.fold(f64::INFINITY, f64::min)
                };
                let here = nearest(&zones[home]);
                let other = (0..zones.len())
                    .filter(|z| *z != home && self.flow(&zones[*z]) + self.flows[head] <= most)
                    .min_by(|a, b| nearest(&zones[*a]).total_cmp(&nearest(&zones[*b])));
                let Some(other) = other.filter(|o| nearest(&zones[*o]) <= here * 1.2) else {
                    continue;
                };
                let without: Vec<usize> = zones[home].iter().copied().filter(|i| *i != head).collect();
                let mut with = zones[other].clone();
                with.push(head);
                let saves = self.pipe(&zones[home]) + self.pipe(&zones[other])
                    - self.pipe(&without)
                    - self.pipe(&with);
                if saves > 0.05 {
                    zones[home] = without;
                    zones[other] = with;
                    changed = true;
                }
            }
            if !changed {
                break;
            }
        }
    }
}

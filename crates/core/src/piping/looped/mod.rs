//! Sizes at least cost where pipe closes loops: flows then hang on the sizes, so each set of sizes is solved.
//!
//! Best first: legs are settled one after the other, the set that may cost least is looked at next. What is
//! not settled yet counts as the largest pipe for its friction and as the smallest for its price, which no
//! choice can beat, so a set that fails even so is left; what the next set would cost at the least bounds
//! what has not been looked at. A descent from the largest pipe gives a good answer to begin with, and stands
//! where the search is cut short.
//!
//! # Source
//! That a wider pipe never makes a network of pipes spend more for the same draws: Rayleigh's law of
//! monotony; for friction that goes by a power of the flow, Birkhoff and Diaz (1956), "Non-linear network
//! problems", Quarterly of Applied Mathematics 13(4).

#[cfg(test)]
mod tests;

use super::size::{ABOUT, Limits, Short, Size, Sized};
use crate::network::{Emission, Emitter, Link, LinkKind, Network, Node, Solution, Source, SourceLaw, solve};
use crate::units::{Flow, KPA_PER_M, Length, Pressure, Speed};
use std::cmp::Ordering;
use std::collections::BinaryHeap;

/// Networks solved at most, of all that runs one at a time together.
const MOST_SOLVED: usize = 4_000;
/// Pressure put on top of the inlet's while trying, so that a bad try still flows.
const ON_TOP: f64 = 1e4;
/// Two costs that are one.
const SAME_COST: f64 = 1e-9;
/// Kilopascals that are rounding.
const ROUNDING: f64 = 1e-6;

/// A leg between two nodes.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LoopLeg {
    /// Its nodes, by place; 0 is the inlet.
    pub ends: (usize, usize),
    /// Its length.
    pub length: Length,
    /// Its size, by place in the list of sizes, where that is pinned.
    pub pinned: Option<usize>,
}

/// What is drawn at a node.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Draw {
    /// By place.
    pub node: usize,
    /// How much, over zero.
    pub flow: Flow,
    /// Pressure wanted there.
    pub wants: Pressure,
}

/// Pipe with loops.
#[derive(Debug, Clone, PartialEq)]
pub struct Looped {
    /// How high each node lies over the inlet, which is the first.
    pub heights: Vec<Length>,
    /// All legs.
    pub legs: Vec<LoopLeg>,
    /// What runs at one time, each by itself: the zones of a main, or all heads of a lateral.
    pub running: Vec<Vec<Draw>>,
}

impl Looped {
    /// The cheapest sizes that were found, with what no choice can cost less than.
    ///
    /// # Valid range
    /// Every node joined to the inlet; sizes rise by bore and price; lengths over zero. Draws are taken as
    /// given.
    pub fn least_cost(&self, sizes: &[Size], limits: Limits) -> Sized {
        let mut trial = Trial::new(self, sizes, limits);
        let largest: Vec<usize> = self.legs.iter().map(|l| trial.pinned(l).unwrap_or(trial.last())).collect();
        // What can't be had isn't asked for: what the largest pipe has is then the limit.
        let short = trial.short(&largest);
        let mut lacks = short;
        while let Some(lack) = lacks {
            match lack {
                Short::Pressure(pressure) => trial.limits.inlet = trial.limits.inlet + pressure + ABOUT,
                Short::Spread(spread) => trial.limits.spread = Some(spread),
                Short::Velocity(_, speed) => trial.limits.velocity = speed,
            }
            lacks = trial.short(&largest).filter(|next| !same(*next, lack));
        }
        let floor = trial.floor(&largest);
        let mut best = trial.descend(largest.clone(), &floor);
        for size in 0..trial.last() {
            let one = |l: &LoopLeg| trial.pinned(l).unwrap_or(size);
            let all: Vec<usize> = self.legs.iter().map(one).collect();
            if trial.keeps(&all) {
                let found = trial.descend(all, &floor);
                if trial.cost(&found) < trial.cost(&best) - SAME_COST {
                    best = found;
                }
                break;
            }
        }
        let (best, bound) = trial.search(best, &floor, &largest);
        let cost = trial.cost(&best);
        Sized { sizes: best, cost, bound, proven: bound >= cost - SAME_COST, short }
    }

    /// A leg that all that lies behind it hangs by: its flow is what is drawn there, whatever the sizes.
    fn is_bridge(&self, leg: usize) -> bool {
        let mut seen = vec![false; self.heights.len()];
        let mut open = vec![0];
        seen[0] = true;
        while let Some(here) = open.pop() {
            for (_, l) in self.legs.iter().enumerate().filter(|(i, _)| *i != leg) {
                let other = match l.ends {
                    (a, b) if a == here => b,
                    (a, b) if b == here => a,
                    _ => continue,
                };
                if !std::mem::replace(&mut seen[other], true) {
                    open.push(other);
                }
            }
        }
        seen.contains(&false)
    }
}

/// The same kind of lack.
fn same(a: Short, b: Short) -> bool {
    std::mem::discriminant(&a) == std::mem::discriminant(&b)
}

/// A set of sizes that is settled for its first legs.
struct Open {
    /// What it costs at the least.
    least: f64,
    settled: Vec<usize>,
}

impl Ord for Open {
    /// The one that costs least comes first; of equals the one that is settled furthest.
    fn cmp(&self, other: &Self) -> Ordering {
        other.least.total_cmp(&self.least).then(self.settled.len().cmp(&other.settled.len()))
    }
}

impl PartialOrd for Open {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

impl PartialEq for Open {
    fn eq(&self, other: &Self) -> bool {
        self.cmp(other) == Ordering::Equal
    }
}

impl Eq for Open {}

struct Trial<'a> {
    of: &'a Looped,
    sizes: &'a [Size],
    limits: Limits,
    /// One for each thing that runs.
    networks: Vec<Network>,
    solved: usize,
}

impl<'a> Trial<'a> {
    fn new(of: &'a Looped, sizes: &'a [Size], limits: Limits) -> Self {
        let networks = of.running.iter().map(|draws| network(of, draws, limits)).collect();
        Self { of, sizes, limits, networks, solved: 0 }
    }

    fn last(&self) -> usize {
        self.sizes.len() - 1
    }

    fn pinned(&self, leg: &LoopLeg) -> Option<usize> {
        leg.pinned.map(|p| p.min(self.last()))
    }

    fn cost_of(&self, leg: usize, size: usize) -> f64 {
        self.sizes[size].price * self.of.legs[leg].length.m()
    }

    fn cost(&self, sizes: &[usize]) -> f64 {
        sizes.iter().enumerate().map(|(i, s)| self.cost_of(i, *s)).sum()
    }

    fn solve(&mut self, running: usize, sizes: &[usize]) -> Option<Solution> {
        let network = &mut self.networks[running];
        for (link, size) in network.links.iter_mut().zip(sizes) {
            let bore = self.sizes[*size].bore;
            if let LinkKind::Pipe { inside, roughness_c, .. } = &mut link.kind {
                (*inside, *roughness_c) = (bore.inside, bore.c);
            }
        }
        self.solved += 1;
        solve(network).ok()
    }

    /// Friction from the inlet to a draw.
    fn lost(&self, solution: &Solution, draw: &Draw) -> f64 {
        solution.pressures[0].kpa()
            - solution.pressures[draw.node].kpa()
            - self.of.heights[draw.node].m() * KPA_PER_M
    }

    /// What friction may spend on the way to a draw.
    fn allowed(&self, draw: &Draw) -> f64 {
        self.limits.inlet.kpa() - draw.wants.kpa() - self.of.heights[draw.node].m() * KPA_PER_M
    }

    /// What these sizes don't keep when one of the things runs: pressure before spread before velocity.
    fn short_of(&mut self, running: usize, sizes: &[usize]) -> Option<Short> {
        let Some(solution) = self.solve(running, sizes) else {
            return Some(Short::Pressure(self.limits.inlet));
        };
        let (mut lack, mut most, mut least) = (0.0f64, f64::NEG_INFINITY, f64::INFINITY);
        for draw in &self.of.running[running] {
            let lost = self.lost(&solution, draw);
            lack = lack.max(lost - self.allowed(draw));
            let all = lost + self.of.heights[draw.node].m() * KPA_PER_M;
            (most, least) = (most.max(all), least.min(all));
        }
        if lack > ROUNDING {
            return Some(Short::Pressure(Pressure::from_kpa(lack)));
        }
        if self.limits.spread.is_some_and(|s| most - least > s.kpa() + ROUNDING) {
            return Some(Short::Spread(Pressure::from_kpa(most - least)));
        }
        let speeds = solution.links.iter().map(|l| l.velocity.unwrap_or_default().mps().abs());
        let free = speeds.enumerate().filter(|(leg, _)| self.of.legs[*leg].pinned.is_none());
        free.max_by(|a, b| a.1.total_cmp(&b.1))
            .filter(|f| f.1 > self.limits.velocity.mps() * (1.0 + ROUNDING))
            .map(|(leg, mps)| Short::Velocity(leg, Speed::from_mps(mps)))
    }

    /// Whether these sizes keep all that is asked for.
    fn keeps(&mut self, sizes: &[usize]) -> bool {
        (0..self.of.running.len()).all(|i| self.short_of(i, sizes).is_none())
    }

    /// The worst of what these sizes don't keep: lack of pressure, else spread, else velocity.
    fn short(&mut self, sizes: &[usize]) -> Option<Short> {
        let weight = |s: &Short| match s {
            Short::Pressure(p) => (2, p.kpa()),
            Short::Spread(p) => (1, p.kpa()),
            Short::Velocity(_, v) => (0, v.mps()),
        };
        let all: Vec<Short> = (0..self.of.running.len()).filter_map(|i| self.short_of(i, sizes)).collect();
        let heavier = |a: &(i32, f64), b: &(i32, f64)| a.0.cmp(&b.0).then(a.1.total_cmp(&b.1));
        all.into_iter().max_by(|a, b| heavier(&weight(a), &weight(b)))
    }

    /// Whether water can come at all if no leg is smaller than these: what friction takes from all draws
    /// together only falls as pipe gets wider.
    fn can_feed(&mut self, sizes: &[usize]) -> bool {
        (0..self.of.running.len()).all(|i| {
            let Some(solution) = self.solve(i, sizes) else {
                return false;
            };
            let of = |draw: &Draw| draw.flow.lpm() * (self.lost(&solution, draw) - self.allowed(draw));
            self.of.running[i].iter().map(of).sum::<f64>() <= ROUNDING
        })
    }

    /// The smallest size that each leg can have, were all others as large as they come.
    fn floor(&mut self, largest: &[usize]) -> Vec<usize> {
        let mut floor = largest.to_vec();
        for leg in 0..floor.len() {
            if self.of.legs[leg].pinned.is_some() {
                continue;
            }
            let carried = self.of.is_bridge(leg).then(|| {
                let all = (0..self.of.running.len()).filter_map(|i| self.solve(i, largest));
                let flow = |s: Solution| s.links[leg].flow.lpm().abs();
                Flow::from_lpm(all.map(flow).fold(0.0, f64::max))
            });
            floor[leg] = (0..largest[leg])
                .find(|size| {
                    let slow = carried.is_none_or(|q| {
                        Speed::in_pipe(q, self.sizes[*size].bore.inside)
                            <= self.limits.velocity * (1.0 + ROUNDING)
                    });
                    let mut tried = largest.to_vec();
                    tried[leg] = *size;
                    slow && self.can_feed(&tried)
                })
                .unwrap_or(largest[leg]);
        }
        floor
    }

    /// Makes legs smaller for as long as all is kept, what saves most first; then lets one grow where others
    /// can shrink for it.
    fn descend(&mut self, from: Vec<usize>, floor: &[usize]) -> Vec<usize> {
        let mut best = self.shrink(from, floor, None);
        let mut better = true;
        while std::mem::take(&mut better) {
            for leg in 0..best.len() {
                if self.solved >= MOST_SOLVED / 2 {
                    return best;
                }
                if self.of.legs[leg].pinned.is_some() || best[leg] == self.last() {
                    continue;
                }
                let mut grown = best.clone();
                grown[leg] += 1;
                if !self.keeps(&grown) {
                    continue;
                }
                let next = self.shrink(grown, floor, Some(leg));
                if self.cost(&next) < self.cost(&best) - SAME_COST {
                    (best, better) = (next, true);
                }
            }
        }
        best
    }

    fn shrink(&mut self, mut sizes: Vec<usize>, floor: &[usize], but: Option<usize>) -> Vec<usize> {
        loop {
            let mut next: Vec<(f64, usize)> = (0..sizes.len())
                .filter(|i| Some(*i) != but && sizes[*i] > floor[*i])
                .map(|i| (self.cost_of(i, sizes[i]) - self.cost_of(i, sizes[i] - 1), i))
                .collect();
            next.sort_by(|a, b| b.0.total_cmp(&a.0).then(a.1.cmp(&b.1)));
            let fits = next.into_iter().find(|(_, leg)| {
                sizes[*leg] -= 1;
                let kept = self.keeps(&sizes);
                sizes[*leg] += 1;
                kept
            });
            match fits {
                Some((_, leg)) => sizes[leg] -= 1,
                None => return sizes,
            }
        }
    }

    /// The cheapest, looked for until it is proven or enough was solved, and what none costs less than.
    fn search(&mut self, mut best: Vec<usize>, floor: &[usize], largest: &[usize]) -> (Vec<usize>, f64) {
        // Dear legs first: they part good sets from bad ones soonest.
        let mut order: Vec<usize> = (0..best.len()).collect();
        let span = |i: &usize| self.cost_of(*i, largest[*i]) - self.cost_of(*i, floor[*i]);
        order.sort_by(|a, b| span(b).total_cmp(&span(a)).then(a.cmp(b)));
        let mut known = self.cost(&best);
        let mut open = BinaryHeap::from([Open { least: self.cost(floor), settled: Vec::new() }]);
        while let Some(Open { least, settled }) = open.pop() {
            if least >= known - SAME_COST {
                return (best, known);
            }
            if self.solved >= MOST_SOLVED {
                return (best, least);
            }
            if settled.len() == order.len() {
                let whole = self.whole(&order, &settled, largest);
                if self.keeps(&whole) {
                    (known, best) = (least, whole);
                }
                continue;
            }
            let leg = order[settled.len()];
            for size in floor[leg]..=largest[leg] {
                let least = least + self.cost_of(leg, size) - self.cost_of(leg, floor[leg]);
                if least >= known - SAME_COST {
                    break;
                }
                let mut next = settled.clone();
                next.push(size);
                let widest = self.whole(&order, &next, largest);
                if self.can_feed(&widest) {
                    open.push(Open { least, settled: next });
                }
            }
        }
        (best, known)
    }

    /// The first legs of the order as settled, the rest as they come.
    fn whole(&self, order: &[usize], settled: &[usize], rest: &[usize]) -> Vec<usize> {
        let mut whole = rest.to_vec();
        for (leg, size) in order.iter().zip(settled) {
            whole[*leg] = *size;
        }
        whole
    }
}

fn network(of: &Looped, draws: &[Draw], limits: Limits) -> Network {
    let nodes =
        of.heights.iter().enumerate().map(|(i, height)| Node { id: format!("n{i}"), elevation: *height });
    let links = of.legs.iter().enumerate().map(|(i, leg)| Link {
        id: format!("l{i}"),
        from: leg.ends.0,
        to: leg.ends.1,
        kind: LinkKind::Pipe {
            // Ends that lie on one another are joined all the same.
            length: leg.length.max(Length::from_m(0.001)) * (1.0 + limits.fittings),
            inside: Length::from_in(1.0),
            roughness_c: 150.0,
            minor_loss_k: 0.0,
            open: true,
        },
    });
    // What is drawn is drawn whatever the pressure.
    let emitters = draws.iter().enumerate().map(|(i, draw)| Emitter {
        id: format!("d{i}"),
        node: draw.node,
        emission: Emission::Compensating { flow: draw.flow, min: Pressure::from_kpa(1e-3) },
    });
    Network {
        name: String::new(),
        sources: vec![Source {
            node: 0,
            law: SourceLaw::Measured {
                static_pressure: limits.inlet + Pressure::from_kpa(ON_TOP),
                drop: Pressure::ZERO,
                at_flow: Flow::from_lpm(1.0),
                exponent: 2.0,
            },
        }],
        nodes: nodes.collect(),
        links: links.collect(),
        emitters: emitters.collect(),
    }
}

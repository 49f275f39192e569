//! The lateral of a valve: branching trees, compared by trench and by the pipe that keeps every head at
//! its aim.

use super::dug::Dug;
use super::roads::{Roads, Way};
use super::size::{Limits, Size, SizeLeg, Sized, least_cost};
use super::tree::{Tree, TreeEdge, join};
use crate::catalogue::{Nozzle, PipeId};
use crate::drip::inlet_flows;
use crate::earthwork::Portal;
use crate::earthwork::{pipe_price, trench_price};
use crate::job::Job;
use crate::plan::{DrawnHead, HeadGroup, Regulation, Valve};
use crate::site::Point;
use crate::units::{Flow, Length, Pressure};
use crate::water::Aim;
use crate::zone::{drawn_on, zone_of};

/// Edges that a feed is tried at, the nearest ones.
const NEAREST_FEEDS: usize = 3;
/// What a lateral is sized by before its zone can be solved: nominal and this much.
const OVER_NOMINAL: f64 = 1.15;

/// What a head wants of its lateral.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Need {
    /// Where it stands.
    pub at: Point,
    /// How high.
    pub height: Length,
    /// What it gives at nominal pressure.
    pub flow: Flow,
    /// Pressure wanted before the head, at its best aim.
    pub wants: Pressure,
    /// Nominal pressure of its kind.
    pub nominal: Pressure,
}

/// What the drawn heads of a valve want, in the plan's order.
pub fn needs(job: &Job, valve: &Valve) -> Vec<Need> {
    needs_at(job, valve, Aim::Best)
}

pub(super) fn needs_at<'j>(job: &'j Job, valve: &'j Valve, aim: Aim) -> Vec<Need> {
    let bodies = matches!(valve.regulation, Regulation::Body { .. });
    let mut laid: Vec<(&str, Option<Vec<Flow>>)> = Vec::new();
    let mut need = |(group, index, head): &(&'j HeadGroup, u32, &DrawnHead)| {
        let known = laid.iter().position(|l| l.0 == group.id).unwrap_or_else(|| {
            laid.push((&group.id, inlet_flows(job, group)));
            laid.len() - 1
        });
        let inlet = laid[known].1.as_ref().and_then(|f| f.get(*index as usize).copied());
        let nozzle = job.catalogue().nozzle(&group.nozzle)?;
        let class = job.catalogue().class(nozzle.kind);
        let band = class.band();
        let compensating = nozzle.exponent_with(class) == 0.0;
        let through = if bodies && !nozzle.kind.is_drip() { Nozzle::behind_body(class) } else { 1.0 };
        Some(Need {
            at: head.at,
            height: job.ground(head.at),
            flow: inlet.unwrap_or_else(|| nozzle.flow_set(head.arc, head.radius)),
            wants: aim.wanted(band, compensating) / through,
            nominal: band.best,
        })
    };
    drawn_on(job, &valve.id)
        .iter()
        .map(|h| {
            need(h).unwrap_or(Need {
                at: h.2.at,
                height: Length::ZERO,
                flow: Flow::ZERO,
                wants: Pressure::ZERO,
                nominal: Pressure::from_psi(30.0),
            })
        })
        .collect()
}

/// Sizes that may be laid in place of a pipe: of its make, as the house has them on the truck.
pub(super) fn sizes_like(job: &Job, pipe: &PipeId) -> Vec<(PipeId, Size)> {
    let truck = &job.rules.trench.sizes;
    let of_make = || job.catalogue().pipes.iter().filter(|p| p.material == pipe.material);
    let mut pipes: Vec<_> = of_make().filter(|p| truck.is_empty() || truck.contains(&p.size)).collect();
    if pipes.is_empty() {
        pipes = of_make().collect();
    }
    pipes.sort_by(|a, b| a.inside.m().total_cmp(&b.inside.m()));
    let size = |p: &&crate::catalogue::Pipe| Size { bore: (*p).into(), price: pipe_price(job, p.inside) };
    pipes.iter().map(|p| (p.id(), size(p))).collect()
}

/// A tree as legs to be sized, from its first point outwards, with the tree's edge of each leg.
pub(super) fn size_legs(tree: &Tree, start: Length, needs: &[Need]) -> (Vec<SizeLeg>, Vec<usize>) {
    let around = tree.around();
    let height = |i: usize| {
        if i == 0 { Some(start) } else { needs.get(i - 1).map(|n| n.height) }
    };
    let (mut legs, mut edges) = (Vec::new(), Vec::new());
    let mut seen = vec![false; tree.edges.len()];
    // Point, the leg that leads to it, and the last known height on the way: tees lie level with it.
    let mut open = std::collections::VecDeque::from([(0usize, None, start)]);
    while let Some((at, parent, here)) = open.pop_front() {
        for &e in &around[at] {
            if std::mem::replace(&mut seen[e], true) {
                continue;
            }
            let edge = tree.edges[e];
            let to = if edge.a == at { edge.b } else { edge.a };
            let there = height(to).unwrap_or(here);
            let need = to.checked_sub(1).and_then(|i| needs.get(i));
            legs.push(SizeLeg {
                parent,
                length: Length::from_m(tree.points[at].distance(tree.points[to])),
                flow: need.map_or(Flow::ZERO, |n| n.flow),
                rise: there - here,
                pinned: None,
                wants: need.map(|n| n.wants),
            });
            edges.push(e);
            open.push_back((to, Some(legs.len() - 1), there));
        }
    }
    for i in (0..legs.len()).rev() {
        if let Some(p) = legs[i].parent {
            legs[p].flow = legs[p].flow + legs[i].flow;
        }
    }
    (legs, edges)
}

/// A lateral with its pipe sized.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Laid {
    pub(super) tree: Tree,
    pub(super) sized: Sized,
    /// Pipe and tees.
    goods: f64,
}

/// Everything that the laterals of a valve are compared by.
pub(super) struct Judge<'a> {
    job: &'a Job,
    needs: &'a [Need],
    start: Length,
    sizes: Vec<Size>,
    limits: Limits,
}

impl<'a> Judge<'a> {
    pub(super) fn of(job: &'a Job, valve: &Valve, start: Point, needs: &'a [Need]) -> Self {
        let pipe = drawn_on(job, &valve.id).first().map(|(g, ..)| g.pipe.clone());
        let sizes = pipe.map(|p| sizes_like(job, &p)).unwrap_or_default();
        let nominal = needs.iter().map(|n| n.nominal).reduce(Pressure::max).unwrap_or_default();
        let solved = zone_of(job, valve).ok().map(|z| z.lateral_inlet);
        // Less than a head wants is the lateral's doing as it stands, not a reason for worse.
        let inlet = solved.unwrap_or(nominal * OVER_NOMINAL).max(nominal * OVER_NOMINAL);
        Self {
            job,
            needs,
            start: job.ground(start),
            sizes: sizes.into_iter().map(|s| s.1).collect(),
            limits: Limits {
                inlet,
                velocity: job.rules.velocity_watch,
                spread: Some(nominal * job.rules.spread),
                fittings: job.rules.fittings,
            },
        }
    }

    /// Sizes a tree.
    pub(super) fn judge(&self, tree: Tree) -> Laid {
        let (legs, _) = size_legs(&tree, self.start, self.needs);
        let sized = least_cost(&legs, &self.sizes, self.limits);
        let tees = tree.around().iter().skip(tree.given).filter(|e| e.len() > 2).count();
        let tee = f64::try_from(self.job.rules.trench.tee).unwrap_or(0.0);
        let goods = sized.cost + tee * tees as f64;
        Laid { tree, sized, goods }
    }

    /// What trench, pipe and tees of a lateral cost together where some is dug already. What can't be kept
    /// costs as if every leg were laid twice, so that it is taken only where nothing keeps it.
    pub(super) fn cost(&self, laid: &Laid, dug: &Dug) -> f64 {
        let mut cost = dug.left_of(&laid.tree) * trench_price(self.job) + laid.goods;
        if laid.sized.short.is_some() {
            cost += laid.sized.cost + 0.1 * cost;
        }
        cost + laid.tree.cut_off.len() as f64 * 1e6
    }

    /// What a metre of the thinnest pipe costs, as metres of plain trench.
    pub(super) fn pipe_for_trench(&self) -> f64 {
        let thinnest = self.sizes.first().map_or(0.0, |s| s.price);
        thinnest / trench_price(self.job).max(1e-9)
    }
}

/// Ways of laying a lateral.
pub(super) struct Options<'a> {
    pub(super) judge: Judge<'a>,
    pub(super) start: Point,
    /// The heads joined among themselves, not fed yet.
    pub(super) among: Tree,
    pub(super) laid: Vec<Laid>,
}

/// Ways of laying a lateral by itself: joined in one go, or first among the heads and then fed where that
/// may cost least, trench and pipe: at the nearest stretches, or where the water parts most evenly.
pub(super) fn options<'a>(
    job: &'a Job,
    roads: &Roads<'_>,
    valve: &Valve,
    start: Point,
    needs: &'a [Need],
) -> Options<'a> {
    let judge = Judge::of(job, valve, start, needs);
    let all: Vec<Point> = std::iter::once(start).chain(needs.iter().map(|n| n.at)).collect();
    let mut laid = vec![judge.judge(join(roads, &all))];
    let among = join(roads, &all[1..]);
    for edge in feeds(&among, start, needs) {
        laid.extend(fed_at(roads, &among, start, edge).map(|tree| judge.judge(tree)));
    }
    Options { judge, start, among, laid }
}

/// The cheapest lateral found, with nothing dug yet.
fn lay(job: &Job, roads: &Roads<'_>, valve: &Valve, start: Point, needs: &[Need]) -> Tree {
    let Options { judge, laid, .. } = options(job, roads, valve, start, needs);
    let cost = |l: &Laid| judge.cost(l, &Dug::default());
    let best = laid.into_iter().min_by(|a, b| cost(a).total_cmp(&cost(b)));
    best.map(|l| l.tree).unwrap_or_default()
}

/// Edges of the heads' own tree that a feed is tried at.
fn feeds(among: &Tree, start: Point, needs: &[Need]) -> Vec<usize> {
    let off = |e: &TreeEdge| crate::site::to_segment(start, among.points[e.a], among.points[e.b]);
    let mut near: Vec<usize> = (0..among.edges.len()).filter(|e| !among.edges[*e].sleeve).collect();
    near.sort_by(|a, b| off(&among.edges[*a]).total_cmp(&off(&among.edges[*b])));
    near.truncate(NEAREST_FEEDS);
    // The edge on whose two sides the flows differ least.
    let flows: Vec<f64> = needs.iter().map(|n| n.flow.lpm()).collect();
    let total: f64 = flows.iter().sum();
    let side = |e: usize| (flow_behind(among, e, &flows) * 2.0 - total).abs();
    let even = (0..among.edges.len())
        .filter(|e| !among.edges[*e].sleeve)
        .min_by(|a, b| side(*a).total_cmp(&side(*b)));
    near.extend(even.filter(|e| !near.contains(e)));
    near
}

/// Flow of the heads on the far side of an edge.
fn flow_behind(tree: &Tree, edge: usize, flows: &[f64]) -> f64 {
    let around = tree.around();
    let mut open = vec![(tree.edges[edge].b, edge)];
    let mut sum = 0.0;
    while let Some((at, via)) = open.pop() {
        sum += flows.get(at).copied().unwrap_or(0.0);
        for &e in around[at].iter().filter(|e| **e != via) {
            let other = if tree.edges[e].a == at { tree.edges[e].b } else { tree.edges[e].a };
            open.push((other, e));
        }
    }
    sum
}

/// Of a stretch of a tree, the point nearest to another.
pub(super) fn foot(tree: &Tree, edge: usize, from: Point) -> Point {
    let TreeEdge { a, b, .. } = tree.edges[edge];
    let (p, q) = (tree.points[a], tree.points[b]);
    let along = q - p;
    let share = ((from - p).dot(along) / along.dot(along).max(1e-12)).clamp(0.0, 1.0);
    p + along * share
}

/// The heads' tree with a feed from the start to the nearest point of an edge.
fn fed_at(roads: &Roads<'_>, among: &Tree, start: Point, edge: usize) -> Option<Tree> {
    let way = roads.way(&roads.stop(start), &roads.stop(foot(among, edge, start)))?;
    Some(fed_by(roads, among, Some(edge), &way))
}

/// The heads' tree with a feed by a way that ends on an edge, or on the one head there is.
pub(super) fn fed_by(roads: &Roads<'_>, among: &Tree, edge: Option<usize>, way: &Way) -> Tree {
    let last = way.points.len() - 1;
    let (start, foot) = (way.points[0], way.points[last]);
    // The start comes first in the new tree, so all other places move up by one.
    let mut tree = Tree {
        points: std::iter::once(start).chain(among.points.iter().copied()).collect(),
        given: among.given + 1,
        edges: among.edges.clone(),
        cut_off: among.cut_off.iter().map(|i| i + 1).collect(),
    };
    for e in &mut tree.edges {
        (e.a, e.b) = (e.a + 1, e.b + 1);
    }
    let near = |p: Point| p.distance(foot) < 0.05;
    let tee = match edge.map(|e| (e, tree.edges[e])) {
        None => 1,
        Some((edge, _)) if near(start) => {
            // The box stands on the stretch itself: the water parts there.
            part(&mut tree, edge, 0);
            return tree;
        }
        Some((_, e)) if near(tree.points[e.a]) => e.a,
        Some((_, e)) if near(tree.points[e.b]) => e.b,
        Some((edge, _)) => {
            tree.points.push(foot);
            let tee = tree.points.len() - 1;
            part(&mut tree, edge, tee);
            tee
        }
    };
    let mut at = 0;
    for i in 1..=last {
        let to = if i == last {
            tee
        } else {
            tree.points.push(way.points[i]);
            tree.points.len() - 1
        };
        let (from, there) = (way.points[i - 1], way.points[i]);
        let sleeve = way.sleeved[i - 1];
        let trench = || roads.ground.trench(from, there);
        let cost = if sleeve {
            roads.ground.crossing(Portal { from, to: there })
        } else {
            trench().unwrap_or(from.distance(there) * 2.0)
        };
        tree.edges.push(TreeEdge { a: at, b: to, cost, sleeve });
        at = to;
    }
    tree
}

/// Parts an edge in two at a point of the tree that lies on it.
fn part(tree: &mut Tree, edge: usize, at: usize) {
    let old = tree.edges[edge];
    let (p, q) = (tree.points[old.a], tree.points[old.b]);
    let share = (p.distance(tree.points[at]) / p.distance(q).max(1e-9)).min(1.0);
    tree.edges[edge] = TreeEdge { b: at, cost: old.cost * share, ..old };
    tree.edges.push(TreeEdge { a: at, cost: old.cost * (1.0 - share), ..old });
}

/// One long chain through all heads, as short as two-opt makes it (Croes 1958): what a branching
/// lateral is compared with.
pub(super) fn chain(roads: &Roads<'_>, start: Point, needs: &[Need]) -> Tree {
    let points: Vec<Point> = std::iter::once(start).chain(needs.iter().map(|n| n.at)).collect();
    let mut order = vec![0usize];
    let mut open: Vec<usize> = (1..points.len()).collect();
    while !open.is_empty() {
        let here = points[order[order.len() - 1]];
        let next = (0..open.len())
            .min_by(|a, b| points[open[*a]].distance(here).total_cmp(&points[open[*b]].distance(here)));
        order.push(open.remove(next.unwrap_or(0)));
    }
    let far = |a: usize, b: usize| points[a].distance(points[b]);
    for _ in 0..50 {
        let mut better = false;
        for i in 1..order.len() {
            for k in i + 1..order.len() {
                let before =
                    far(order[i - 1], order[i]) + order.get(k + 1).map_or(0.0, |n| far(order[k], *n));
                let after = far(order[i - 1], order[k]) + order.get(k + 1).map_or(0.0, |n| far(order[i], *n));
                if after < before - 1e-9 {
                    order[i..=k].reverse();
                    better = true;
                }
            }
        }
        if !better {
            break;
        }
    }
    let edges = order
        .windows(2)
        .map(|w| TreeEdge {
            a: w[0],
            b: w[1],
            cost: roads.ground.trench(points[w[0]], points[w[1]]).unwrap_or(2.0 * far(w[0], w[1])),
            sleeve: false,
        })
        .collect();
    Tree { given: points.len(), points, edges, cut_off: Vec::new() }
}

/// A way of laying a lateral, with the figures that it is judged by.
#[derive(Debug, Clone, PartialEq)]
pub struct Shape {
    /// Trench, m.
    pub trench: Length,
    /// Pipe.
    pub pipe: Length,
    /// Trench, pipe and tees.
    pub cost: f64,
    /// Nearest and furthest head: pressure before them with these sizes, at the flows of nominal pressure.
    pub first: Pressure,
    /// The last.
    pub last: Pressure,
    /// Everything wanted is kept.
    pub keeps: bool,
}

/// The lateral as proposed and as one chain, side by side. None: the valve has no drawn heads or no place.
pub fn branch_against_chain(
    job: &Job,
    ground: &crate::earthwork::Ground,
    valve: &Valve,
) -> Option<(Shape, Shape)> {
    let start = job.valve_point(valve)?;
    let needs = needs(job, valve);
    if needs.is_empty() {
        return None;
    }
    let roads = Roads::new(ground, &[start]);
    let judge = Judge::of(job, valve, start, &needs);
    let shape = |tree: Tree| {
        let laid = judge.judge(tree);
        let cost = judge.cost(&laid, &Dug::default());
        let Laid { tree, sized, .. } = laid;
        let (legs, _) = size_legs(&tree, judge.start, &needs);
        let mut left: Vec<Pressure> = Vec::with_capacity(legs.len());
        let mut ends: Vec<Pressure> = Vec::new();
        for (leg, size) in legs.iter().zip(&sized.sizes) {
            let bore = judge.sizes[*size].bore;
            let long = leg.length * (1.0 + judge.limits.fittings);
            let lost = crate::network::hazen_williams(leg.flow, long, bore.inside, bore.c);
            let before = leg.parent.map_or(judge.limits.inlet, |p| left[p]);
            left.push(before - lost - Pressure::of_height(leg.rise));
            if leg.wants.is_some() {
                ends.push(left[left.len() - 1]);
            }
        }
        let pipe = Length::from_m(tree.length());
        Shape {
            trench: pipe,
            pipe,
            cost,
            first: ends.iter().copied().reduce(Pressure::max).unwrap_or_default(),
            last: ends.iter().copied().reduce(Pressure::min).unwrap_or_default(),
            keeps: sized.short.is_none(),
        }
    };
    let branched = shape(lay(job, &roads, valve, start, &needs));
    Some((branched, shape(chain(&roads, start, &needs))))
}

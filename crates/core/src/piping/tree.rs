//! The cheapest trench that joins points: shortest connections first, then points where trenches meet.
//!
//! # Source
//! Kou, Markowsky and Berman (1981), "A fast algorithm for Steiner trees": shortest ways joined up as a
//! spanning tree, at most twice the least. Points of meeting by three are put in as Smith, Lee and Liebman (1981) do, but
//! square, since tees branch at 90 degrees: the third point's branch onto the straight run between the other two. The legs
//! at 120 degrees of Torricelli's point (Weiszfeld 1937) are the bound that lengths are held against.

use super::roads::{Roads, Stop, Way};
use crate::site::Point;

/// Two points of a tree that are one, m.
const SAME: f64 = 0.02;
/// A meeting point must save so much trench, m, or it is not worth its tee.
const WORTH: f64 = 0.01;

/// A meeting point so near to what it joins is one with it, m.
const AT_ONE: f64 = 0.2;

/// A tree of trenches. The first points are those that were to be joined, in their order.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Tree {
    /// Where trenches end, meet or bend.
    pub points: Vec<Point>,
    /// How many of the points were asked for.
    pub given: usize,
    /// Trenches between them.
    pub edges: Vec<TreeEdge>,
    /// Places of points that nothing reaches.
    pub cut_off: Vec<usize>,
}

/// A straight trench.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct TreeEdge {
    /// One end.
    pub a: usize,
    /// The other.
    pub b: usize,
    /// As metres of plain trench.
    pub cost: f64,
    /// Under paving, in a sleeve.
    pub sleeve: bool,
}

impl Tree {
    /// As metres of plain trench.
    pub fn cost(&self) -> f64 {
        self.edges.iter().map(|e| e.cost).sum()
    }
    /// Trench dug, m.
    pub fn length(&self) -> f64 {
        self.edges.iter().map(|e| self.points[e.a].distance(self.points[e.b])).sum()
    }
    fn degree(&self) -> Vec<usize> {
        let mut degree = vec![0; self.points.len()];
        for e in &self.edges {
            degree[e.a] += 1;
            degree[e.b] += 1;
        }
        degree
    }
    /// Edges at every point.
    pub(super) fn around(&self) -> Vec<Vec<usize>> {
        let mut around = vec![Vec::new(); self.points.len()];
        for (i, e) in self.edges.iter().enumerate() {
            around[e.a].push(i);
            around[e.b].push(i);
        }
        around
    }
}

/// Joins points by the cheapest trench found, in the first point's reach.
pub fn join(roads: &Roads<'_>, points: &[Point]) -> Tree {
    let stops: Vec<Stop> = points.iter().map(|p| roads.stop(*p)).collect();
    let mut tree = span(roads, &stops);
    tidy(&mut tree);
    improve(roads, &mut tree);
    tree
}

/// A spanning tree of shortest ways (Prim 1957), their stretches joined up where they share a trench.
fn span(roads: &Roads<'_>, stops: &[Stop]) -> Tree {
    let mut tree =
        Tree { points: stops.iter().map(|s| s.at).collect(), given: stops.len(), ..Tree::default() };
    let mut open: Vec<usize> = (1..stops.len()).collect();
    let mut nearest: Vec<Option<(f64, Way)>> = vec![None; stops.len()];
    let mut newest = 0;
    let mut stretches: Vec<TreeEdge> = Vec::new();
    while !open.is_empty() {
        // No way is shorter than the straight line.
        let nearer = |i: &usize| {
            let straight = stops[newest].at.distance(stops[*i].at);
            nearest[*i].as_ref().is_none_or(|n: &(f64, Way)| straight < n.0)
        };
        let asked: Vec<usize> = open.iter().copied().filter(nearer).collect();
        let targets: Vec<&Stop> = asked.iter().map(|i| &stops[*i]).collect();
        for (i, way) in asked.iter().zip(roads.ways(&stops[newest], &targets)) {
            if let Some(way) = way
                && nearest[*i].as_ref().is_none_or(|n| way.cost < n.0 - 1e-9)
            {
                nearest[*i] = Some((way.cost, way));
            }
        }
        let cost = |i: usize| nearest[i].as_ref().map_or(f64::INFINITY, |n| n.0);
        let Some(place) = (0..open.len()).min_by(|a, b| cost(open[*a]).total_cmp(&cost(open[*b]))) else {
            break;
        };
        let next = open.remove(place);
        let Some((_, way)) = nearest[next].take() else {
            tree.cut_off.push(next);
            continue;
        };
        lay(roads, &mut tree, &mut stretches, &way);
        newest = next;
    }
    // Where ways share stretches a spanning tree of the stretches leaves each in once.
    stretches.sort_by(|x, y| x.cost.total_cmp(&y.cost).then((x.a, x.b).cmp(&(y.a, y.b))));
    let mut root: Vec<usize> = (0..tree.points.len()).collect();
    fn find(root: &mut [usize], mut i: usize) -> usize {
        while root[i] != i {
            root[i] = root[root[i]];
            i = root[i];
        }
        i
    }
    for e in stretches {
        let (a, b) = (find(&mut root, e.a), find(&mut root, e.b));
        if a != b {
            root[a] = b;
            tree.edges.push(e);
        }
    }
    tree
}

fn lay(roads: &Roads<'_>, tree: &mut Tree, stretches: &mut Vec<TreeEdge>, way: &Way) {
    let mut place = |p: Point| {
        let known = tree.points.iter().position(|q| q.distance(p) < SAME);
        known.unwrap_or_else(|| {
            tree.points.push(p);
            tree.points.len() - 1
        })
    };
    let places: Vec<usize> = way.points.iter().map(|p| place(*p)).collect();
    for (w, &sleeve) in places.windows(2).zip(&way.sleeved) {
        let (a, b) = (w[0].min(w[1]), w[0].max(w[1]));
        if a == b {
            continue;
        }
        let (p, q) = (tree.points[a], tree.points[b]);
        let cost = if sleeve {
            roads.ground.crossing(crate::earthwork::Portal { from: p, to: q })
        } else {
            roads.ground.trench(p, q).unwrap_or(p.distance(q))
        };
        let edge = TreeEdge { a, b, cost, sleeve };
        if !stretches.iter().any(|e| (e.a, e.b) == (a, b)) {
            stretches.push(edge);
        }
    }
}

/// Takes off ends that nobody asked for.
fn tidy(tree: &mut Tree) {
    loop {
        let degree = tree.degree();
        let dead = |i: usize| i >= tree.given && degree[i] == 1;
        let before = tree.edges.len();
        tree.edges.retain(|e| !dead(e.a) && !dead(e.b));
        if tree.edges.len() == before {
            return;
        }
    }
}

/// The point from which three lie together nearest: where their directions stand at 120 degrees, or the
/// one of them whose angle is wider.
///
/// # Source
/// Torricelli's construction, here by Weiszfeld's steps (1937).
pub fn meeting_point(p: [Point; 3]) -> Point {
    for i in 0..3 {
        let (a, b) = (p[(i + 1) % 3] - p[i], p[(i + 2) % 3] - p[i]);
        if a.norm() < 1e-9 || b.norm() < 1e-9 || a.dot(b) <= -0.5 * a.norm() * b.norm() {
            return p[i];
        }
    }
    let mut at = (p[0] + p[1] + p[2]) * (1.0 / 3.0);
    for _ in 0..200 {
        let (mut sum, mut weight) = (Point::default(), 0.0);
        for q in p {
            let w = 1.0 / at.distance(q).max(1e-9);
            sum = sum + q * w;
            weight += w;
        }
        let next = sum * (1.0 / weight);
        let moved = next.distance(at);
        at = next;
        if moved < 1e-6 {
            break;
        }
    }
    at
}

/// The square branch by which three are joined with the least trench: the straight run between two of them, and the third's
/// way onto it; one of the three where no foot of a branch lies between.
///
/// # Example
/// (0, 0), (10, 0) and (5, 9): at (5, 0), 19 m of trench, where one by way of the third would be 20.6.
pub fn square_branch(p: [Point; 3]) -> Point {
    let foot = |i: usize| {
        let (a, b, c) = (p[(i + 1) % 3], p[(i + 2) % 3], p[i]);
        let run = b - a;
        let share = (c - a).dot(run) / run.dot(run).max(1e-12);
        (share > 0.0 && share < 1.0).then(|| a + run * share)
    };
    let sum = |at: &Point| p.iter().map(|q| q.distance(*at)).sum::<f64>();
    let places = (0..3).filter_map(foot).chain(p);
    places.min_by(|a, b| sum(a).total_cmp(&sum(b))).unwrap_or(p[0])
}

/// Points of meeting: put in where three legs make less of two, moved while that saves anything, taken
/// out where they join only two.
fn improve(roads: &Roads<'_>, tree: &mut Tree) {
    for _ in 0..4 * tree.points.len().max(4) {
        let gain = best_meeting(roads, tree);
        match gain {
            Some((middle, x, y, at)) => meet(roads, tree, middle, x, y, at),
            None => break,
        }
        for _ in 0..8 {
            if !settle(roads, tree) {
                break;
            }
        }
    }
    contract(roads, tree);
    straighten(roads, tree);
}

/// A meeting point that has come to stand at one of its neighbours is that neighbour.
fn contract(roads: &Roads<'_>, tree: &mut Tree) {
    loop {
        let short = (0..tree.edges.len()).find_map(|i| {
            let e = tree.edges[i];
            let near = !e.sleeve && tree.points[e.a].distance(tree.points[e.b]) < AT_ONE;
            let (gone, stays) = if e.b >= tree.given { (e.b, e.a) } else { (e.a, e.b) };
            if !near || gone < tree.given {
                return None;
            }
            // What hung on it must be reached from the other as well.
            let others =
                tree.edges.iter().enumerate().filter(|(k, o)| *k != i && (o.a == gone || o.b == gone));
            let moved: Option<Vec<(usize, f64)>> = others
                .map(|(k, o)| {
                    let far = other(*o, gone);
                    let cost = roads.ground.trench(tree.points[stays], tree.points[far]);
                    (!o.sleeve).then_some((k, cost?))
                })
                .collect();
            Some((i, gone, stays, moved?))
        });
        let Some((edge, gone, stays, moved)) = short else {
            return;
        };
        for (k, cost) in moved {
            let far = other(tree.edges[k], gone);
            tree.edges[k] = TreeEdge { a: stays, b: far, cost, sleeve: false };
        }
        tree.edges.remove(edge);
    }
}

/// The meeting of two neighbouring edges that saves most: their common point, the edges, where.
fn best_meeting(roads: &Roads<'_>, tree: &Tree) -> Option<(usize, usize, usize, Point)> {
    let around = tree.around();
    let mut best: Option<(f64, (usize, usize, usize, Point))> = None;
    for (v, edges) in around.iter().enumerate() {
        for (i, &x) in edges.iter().enumerate() {
            for &y in &edges[i + 1..] {
                let (ex, ey) = (tree.edges[x], tree.edges[y]);
                if ex.sleeve || ey.sleeve {
                    continue;
                }
                let (u, w) = (other(ex, v), other(ey, v));
                let three = [tree.points[u], tree.points[v], tree.points[w]];
                let at = square_branch(three);
                if three.iter().any(|p| p.distance(at) < SAME) {
                    continue;
                }
                let straight: f64 = three.iter().map(|p| p.distance(at)).sum();
                let now = ex.cost + ey.cost;
                if now - straight < WORTH || best.is_some_and(|b| now - straight <= b.0) {
                    continue;
                }
                let legs: Option<f64> = three.iter().map(|p| roads.ground.trench(*p, at)).sum();
                if let Some(cost) = legs
                    && now - cost > best.map_or(WORTH, |b| b.0)
                {
                    best = Some((now - cost, (v, x, y, at)));
                }
            }
        }
    }
    best.map(|b| b.1)
}

fn other(e: TreeEdge, v: usize) -> usize {
    if e.a == v { e.b } else { e.a }
}

fn meet(roads: &Roads<'_>, tree: &mut Tree, v: usize, x: usize, y: usize, at: Point) {
    let (u, w) = (other(tree.edges[x], v), other(tree.edges[y], v));
    let new = tree.points.len();
    tree.points.push(at);
    let edge = |to: usize, points: &[Point]| TreeEdge {
        a: to,
        b: new,
        cost: roads.ground.trench(points[to], at).unwrap_or(points[to].distance(at)),
        sleeve: false,
    };
    tree.edges[x] = edge(u, &tree.points);
    tree.edges[y] = edge(w, &tree.points);
    let third = edge(v, &tree.points);
    tree.edges.push(third);
}

/// Moves each meeting point of three to where its neighbours want it; true if any moved.
fn settle(roads: &Roads<'_>, tree: &mut Tree) -> bool {
    let around = tree.around();
    let mut moved = false;
    for (v, edges) in around.iter().enumerate().skip(tree.given) {
        if edges.len() != 3 || edges.iter().any(|e| tree.edges[*e].sleeve) {
            continue;
        }
        let ends: Vec<usize> = edges.iter().map(|e| other(tree.edges[*e], v)).collect();
        let at = square_branch([tree.points[ends[0]], tree.points[ends[1]], tree.points[ends[2]]]);
        let now: f64 = edges.iter().map(|e| tree.edges[*e].cost).sum();
        let costs: Option<Vec<f64>> = ends.iter().map(|i| roads.ground.trench(tree.points[*i], at)).collect();
        let Some(costs) = costs else { continue };
        if costs.iter().sum::<f64>() < now - 1e-4 {
            tree.points[v] = at;
            for (e, cost) in edges.iter().zip(costs) {
                tree.edges[*e].cost = cost;
            }
            moved = true;
        }
    }
    moved
}

/// Takes out bends that nothing forces, and legs of no length.
fn straighten(roads: &Roads<'_>, tree: &mut Tree) {
    loop {
        let around = tree.around();
        let bend = (tree.given..tree.points.len()).find_map(|v| {
            let [x, y] = around[v][..] else { return None };
            let (ex, ey) = (tree.edges[x], tree.edges[y]);
            let (u, w) = (other(ex, v), other(ey, v));
            if ex.sleeve || ey.sleeve || u == w {
                return None;
            }
            let cost = roads.ground.trench(tree.points[u], tree.points[w])?;
            (cost <= ex.cost + ey.cost + 1e-9).then_some((x, y, u, w, cost))
        });
        let Some((x, y, u, w, cost)) = bend else { break };
        tree.edges[x] = TreeEdge { a: u.min(w), b: u.max(w), cost, sleeve: false };
        tree.edges.remove(y);
    }
    drop_unused(tree);
}

/// Leaves out points that no edge has.
fn drop_unused(tree: &mut Tree) {
    let degree = tree.degree();
    let mut place = vec![usize::MAX; tree.points.len()];
    let mut points = Vec::new();
    for (i, p) in tree.points.iter().enumerate() {
        if i < tree.given || degree[i] > 0 {
            place[i] = points.len();
            points.push(*p);
        }
    }
    tree.points = points;
    for e in &mut tree.edges {
        (e.a, e.b) = (place[e.a], place[e.b]);
    }
}

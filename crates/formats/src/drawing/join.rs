//! Loose lines joined within a tolerance, the same thing drawn twice taken once, rings in rings made holes.

use super::chain::chain;
use super::{Drawing, Layer};
use fenlo_core::site::{Outline, Point, Shape};
use std::collections::{BTreeMap, HashSet};

/// The layer on which we write what things are called.
pub(super) const NAMES: &str = "names";
/// Rings of one layer that are looked at for rings in them: the work grows with their square.
const MOST_NESTED: usize = 4_000;

/// What joining did, in numbers.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Joined {
    /// The same thing drawn again.
    pub twice: usize,
    /// Rings that became holes.
    pub holes: usize,
}

/// A drawing with its loose lines joined: ends nearer than `near`, in its own unit, are one. A drawing that
/// says by itself what closes and what is a hole stays as it is.
pub fn joined(drawing: &Drawing, near: f64) -> (Drawing, Joined) {
    let mut told = Joined::default();
    if !drawing.loose {
        return (drawing.clone(), told);
    }
    let names: Vec<Point> =
        (drawing.layers.get(NAMES).iter()).flat_map(|l| l.texts.iter().map(|t| t.0)).collect();
    let layers: BTreeMap<String, Layer> = (drawing.layers.iter())
        .map(|(name, layer)| (name.clone(), of_layer(layer, near, &names, &mut told)))
        .collect();
    let whole = Drawing { layers, ..drawing.clone() };
    (whole, told)
}

fn of_layer(layer: &Layer, near: f64, names: &[Point], told: &mut Joined) -> Layer {
    let (open, again) = once(layer.open.clone(), near, |path| &path.0, false);
    let (rings, open) = chain(open, near);
    let named = layer.closed.iter().cloned();
    let all: Vec<(Shape, String)> = named.chain(rings.into_iter().map(|s| (s, String::new()))).collect();
    let (closed, more) = once(all, near, |(shape, _)| &shape.outline.0, true);
    told.twice += again + more;
    let closed = nested(closed, names, told);
    Layer { closed, open, ..layer.clone() }
}

/// Each thing once: its corners, whichever way and from wherever they are drawn, to the tolerance.
fn once<T>(
    things: Vec<T>,
    near: f64,
    corners: impl Fn(&T) -> &Vec<fenlo_core::site::Vertex>,
    ring: bool,
) -> (Vec<T>, usize) {
    let cell = |v: f64| (v / near.max(1e-9)).round() as i64;
    let key = |thing: &T| {
        let corners = corners(thing);
        let mut places: Vec<(i64, i64)> = corners.iter().map(|v| (cell(v.at.x), cell(v.at.y))).collect();
        if ring {
            places.sort_unstable();
        } else if places.last() < places.first() {
            places.reverse();
        }
        let bends: f64 = corners.iter().map(|v| v.bulge.abs()).sum();
        (places, (bends * 1e6).round() as i64)
    };
    let before = things.len();
    let mut seen = HashSet::new();
    let kept: Vec<T> = things.into_iter().filter(|t| seen.insert(key(t))).collect();
    let twice = before - kept.len();
    (kept, twice)
}

/// Rings that lie in a ring are its holes; rings in holes are ground again, and so is a ring with a name of
/// its own.
fn nested(rings: Vec<(Shape, String)>, names: &[Point], told: &mut Joined) -> Vec<(Shape, String)> {
    if rings.len() < 2 || rings.len() > MOST_NESTED {
        return rings;
    }
    let area: Vec<f64> = rings.iter().map(|(s, _)| s.area_m2()).collect();
    let boxes: Vec<Option<(Point, Point)>> = rings.iter().map(|(s, _)| bounds(&s.outline)).collect();
    let within = |inner: usize, outer: usize| {
        let (Some(a), Some(b)) = (boxes[inner], boxes[outer]) else {
            return false;
        };
        let boxed = a.0.x >= b.0.x && a.0.y >= b.0.y && a.1.x <= b.1.x && a.1.y <= b.1.y;
        let corners = &rings[inner].0.outline.0;
        boxed && area[inner] < area[outer] && corners.iter().all(|v| rings[outer].0.outline.contains(v.at))
    };
    let mut parent: Vec<Option<usize>> = Vec::with_capacity(rings.len());
    for inner in 0..rings.len() {
        let around = (0..rings.len()).filter(|outer| *outer != inner && within(inner, *outer));
        parent.push(around.min_by(|a, b| area[*a].total_cmp(&area[*b])));
    }
    let depth = |mut ring: usize| {
        let mut depth = 0;
        while let Some(next) = parent[ring] {
            (ring, depth) = (next, depth + 1);
        }
        depth
    };
    let mut is_hole: Vec<bool> = (0..rings.len()).map(|i| depth(i) % 2 == 1).collect();
    for name in names {
        let around = (0..rings.len()).filter(|i| rings[*i].0.outline.contains(*name));
        if let Some(own) = around.min_by(|a, b| area[*a].total_cmp(&area[*b])) {
            is_hole[own] = false;
        }
    }
    told.holes += is_hole.iter().filter(|h| **h).count();
    let mut out = Vec::new();
    for (i, (shape, name)) in rings.iter().enumerate() {
        if is_hole[i] {
            continue;
        }
        let mut shape = shape.clone();
        let mine = (0..rings.len()).filter(|k| is_hole[*k] && parent[*k] == Some(i));
        shape.holes.extend(mine.map(|k| rings[k].0.outline.clone()));
        out.push((shape, name.clone()));
    }
    out
}

fn bounds(ring: &Outline) -> Option<(Point, Point)> {
    let points = ring.flat(1e-2);
    points.into_iter().fold(None, |found, p| {
        let (a, b) = found.unwrap_or((p, p));
        Some((Point::new(a.x.min(p.x), a.y.min(p.y)), Point::new(b.x.max(p.x), b.y.max(p.y))))
    })
}

//! Where heads stand: corners first, then edges evenly divided, then the inside.

use super::field::Field;
use super::frame::bounds;
use crate::coverage::{Ground, OFF_EDGE, Under};
use crate::site::{Outline, Point, Shape};

/// How the inside is filled.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Inside {
    Square,
    Triangular,
    Free,
}

/// A corner turns by more than this, degrees.
const CORNER: f64 = 25.0;

/// Sine of half the sharpest corner that a head is moved into far enough to stand off both edges.
const SHARPEST: f64 = 0.2;

/// Positions for a spacing in metres.
pub(super) fn place(
    field: &Field,
    ground: &Ground,
    spacing: f64,
    inside: Inside,
    fixed: &[Point],
) -> Vec<Point> {
    let mut points: Vec<Point> = fixed.to_vec();
    for (place, piece) in field.pieces.iter().enumerate() {
        let mut edge = Vec::new();
        for (i, ring) in piece.rings().enumerate() {
            // The ground is to the left of every edge.
            let ring = if (ring.signed_area() > 0.0) == (i == 0) { ring.clone() } else { ring.reversed() };
            edge.extend(along(&ring, spacing));
        }
        edge.retain(|p| field.holds(*p));
        let apart = spacing * 0.45;
        for p in edge {
            if points.iter().all(|q| q.distance(p) >= apart) {
                points.push(p);
            }
        }
        if inside == Inside::Free {
            spread(field, place, ground, spacing, &mut points);
        } else {
            let edges = points.clone();
            points.extend(lattice(piece, spacing, inside == Inside::Triangular).into_iter().filter(|p| {
                field.piece_holds(place, *p)
                    && field.holds(*p)
                    && edges.iter().all(|q| q.distance(*p) >= spacing * 0.55)
            }));
        }
    }
    points.split_off(fixed.len())
}

/// A stretch of ring between two corners, and the corner at its start.
fn along(ring: &Outline, spacing: f64) -> Vec<Point> {
    let edges: Vec<_> = ring.edges().collect();
    let n = edges.len();
    let tangent = |e: &crate::site::Edge, share: f64| {
        let (a, b) = (e.at((share - 0.01).max(0.0)), e.at((share + 0.01).min(1.0)));
        a.direction_to(b)
    };
    let turn = |i: usize| {
        let before = tangent(&edges[(i + n - 1) % n], 1.0);
        (tangent(&edges[i], 0.0) - before + 540.0).rem_euclid(360.0) - 180.0
    };
    let corners: Vec<usize> = (0..n).filter(|i| turn(*i).abs() > CORNER).collect();
    // The ring as points a hand apart, each with the direction of the edge there.
    let fine = |e: &crate::site::Edge| ((e.length() / (spacing / 24.0)).ceil() as usize).clamp(1, 400);
    let mut out = Vec::new();
    if corners.is_empty() {
        let mut walk: Vec<(Point, f64)> = edges
            .iter()
            .flat_map(|e| {
                (0..fine(e))
                    .map(move |k| (e.at(k as f64 / fine(e) as f64), tangent(e, k as f64 / fine(e) as f64)))
            })
            .collect();
        // From the point farthest to the right on: it is the same one however the ring was drawn.
        let first = (0..walk.len()).max_by(|a, b| walk[*a].0.x.total_cmp(&walk[*b].0.x)).unwrap_or(0);
        walk.rotate_left(first);
        walk.push(walk[0]);
        let count = stretches(&walk, spacing).max(3);
        out.extend(divide(&walk, count).into_iter().skip(1));
        return out;
    }
    for (k, &start) in corners.iter().enumerate() {
        let end = corners[(k + 1) % corners.len()];
        let turned = turn(start);
        let open = 180.0 - turned;
        let into = tangent(&edges[start], 0.0) + open / 2.0;
        out.push(edges[start].from.toward(into, OFF_EDGE / (open.to_radians() / 2.0).sin().max(SHARPEST)));
        let mut walk: Vec<(Point, f64)> = Vec::new();
        let mut i = start;
        loop {
            let e = &edges[i];
            walk.extend(
                (0..fine(e))
                    .map(|k| (e.at(k as f64 / fine(e) as f64), tangent(e, k as f64 / fine(e) as f64))),
            );
            i = (i + 1) % n;
            if i == end {
                walk.push((e.to, tangent(e, 1.0)));
                break;
            }
        }
        let count = stretches(&walk, spacing);
        let inner = divide(&walk, count);
        out.extend(inner[1..inner.len() - 1].iter().copied());
    }
    out
}

fn length(walk: &[(Point, f64)]) -> f64 {
    walk.windows(2).map(|w| w[0].0.distance(w[1].0)).sum()
}

/// Into how many even parts a stretch falls so that none is longer than the spacing.
fn stretches(walk: &[(Point, f64)], spacing: f64) -> usize {
    ((length(walk) / spacing - 0.03).ceil().max(1.0)) as usize
}

/// Points that divide a walk evenly, its ends too, each set off to the left.
fn divide(walk: &[(Point, f64)], parts: usize) -> Vec<Point> {
    let step = length(walk) / parts as f64;
    let mut out = vec![walk[0].0.toward(walk[0].1 + 90.0, OFF_EDGE)];
    let mut gone = 0.0;
    for w in walk.windows(2) {
        let run = w[0].0.distance(w[1].0);
        while out.len() < parts && gone + run >= step * out.len() as f64 - 1e-9 {
            let share = ((step * out.len() as f64 - gone) / run.max(1e-9)).clamp(0.0, 1.0);
            out.push((w[0].0 + (w[1].0 - w[0].0) * share).toward(w[0].1 + 90.0, OFF_EDGE));
        }
        gone += run;
    }
    let (last, direction) = walk[walk.len() - 1];
    out.push(last.toward(direction + 90.0, OFF_EDGE));
    out
}

/// Rows along the frame over a piece, spacing evened to its box.
fn lattice(piece: &Shape, spacing: f64, triangular: bool) -> Vec<Point> {
    let points = piece.outline.flat(0.02);
    let (low, high) = bounds(&points);
    let size = high - low;
    let rows_apart = if triangular { spacing * 0.95 } else { spacing };
    let (across, up) =
        ((size.x / spacing - 0.03).ceil().max(1.0), (size.y / rows_apart - 0.03).ceil().max(1.0));
    let (dx, dy) = (size.x / across, size.y / up);
    let mut out = Vec::new();
    for row in 1..up as usize {
        let shift = if triangular && row % 2 == 1 { 0.5 } else { 0.0 };
        for col in 0..=across as usize {
            let p = low + Point::new((col as f64 + shift) * dx, row as f64 * dy);
            out.push(p);
        }
    }
    out
}

/// Heads where the ground is farthest from any, until none is too far; then each to the middle of
/// what it waters (Lloyd 1982).
fn spread(field: &Field, place: usize, ground: &Ground, spacing: f64, points: &mut Vec<Point>) {
    // Every few cells is enough to place heads by.
    let stride = ((spacing / 8.0 / ground.grid.cell).floor() as usize).max(1);
    let cells: Vec<Point> = (0..ground.grid.len())
        .filter(|c| {
            ground.under[*c] == Under::Area
                && (c / ground.grid.cols).is_multiple_of(stride)
                && (c % ground.grid.cols).is_multiple_of(stride)
        })
        .map(|c| ground.grid.centre(c))
        .filter(|p| field.piece_holds(place, *p) && field.holds(*p))
        .collect();
    let edge = points.len();
    let mut far: Vec<f64> =
        cells.iter().map(|c| points.iter().map(|p| p.distance(*c)).fold(f64::MAX, f64::min)).collect();
    while let Some(i) = (0..cells.len()).max_by(|a, b| far[*a].total_cmp(&far[*b])) {
        if far[i] < spacing * 0.72 || points.len() > 5_000 {
            break;
        }
        let p = cells[i];
        points.push(p);
        cells.iter().zip(&mut far).for_each(|(c, f)| *f = f.min(c.distance(p)));
    }
    let inner = points.len() - edge;
    if inner == 0 || cells.len() * points.len() > 40_000_000 {
        return;
    }
    for _ in 0..4 {
        let mut sums = vec![(Point::default(), 0.0); inner];
        for c in &cells {
            // The square of the distance tells as much.
            let far = |p: &Point| (*p - *c).dot(*p - *c);
            let mut nearest = (f64::MAX, 0);
            for (i, p) in points.iter().enumerate() {
                let far = far(p);
                if far < nearest.0 {
                    nearest = (far, i);
                }
            }
            if let Some(i) = Some(nearest.1).filter(|i| *i >= edge) {
                let s = &mut sums[i - edge];
                *s = (s.0 + *c, s.1 + 1.0);
            }
        }
        for (p, (sum, n)) in points[edge..].iter_mut().zip(&sums) {
            let middle = *sum * (1.0 / f64::max(*n, 1.0));
            if *n > 0.0 && field.piece_holds(place, middle) {
                *p = middle;
            }
        }
    }
}

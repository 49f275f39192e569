//! Split, join, cut out, offset: on outlines with true arcs, which stay arcs.

use super::outline::{Outline, Path};
use super::point::Point;
use super::shape::Shape;
use super::{FURTHEST, SAME};
use crate::units::Length;
use cavalier_contours::polyline::{BooleanOp, PlineSource, Polyline};

/// Why pieces can't be combined.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum CombineError {
    /// A line that does not part the shape.
    #[error("the line does not cut all the way across")]
    NotAcross,
    /// Pieces that neither touch nor overlap.
    #[error("only areas that touch or overlap can be joined")]
    Apart,
    /// Nothing is left.
    #[error("nothing would remain")]
    NothingLeft,
    /// Nothing is taken.
    #[error("they do not overlap, so there is nothing to cut out")]
    NoOverlap,
    /// A line through the middle of what has no inside edge there.
    #[error("distance must be between 0 and 1 km, not zero")]
    Distance,
    /// No such edge.
    #[error("that edge does not exist")]
    NoEdge,
}

/// Smaller pieces than a hand's breadth squared are left over from rounding, not meant.
const CRUMB: f64 = 0.005;

fn tidy(line: &Polyline<f64>) -> Option<Outline> {
    let cleaned = line.remove_repeat_pos(SAME);
    let line = cleaned.as_ref().unwrap_or(line);
    let merged = line.remove_redundant(1e-6);
    let ring = Outline::of(merged.as_ref().unwrap_or(line));
    (ring.0.len() >= 2 && ring.signed_area().abs() > CRUMB).then_some(ring)
}

/// Rings of `a` with `b` joined, taken away or in common: outer ones, then holes.
fn rings(a: &Outline, b: &Outline, op: BooleanOp) -> (Vec<Outline>, Vec<Outline>) {
    let result = a.wound().line().boolean(&b.wound().line(), op);
    let tidied = |list: &[cavalier_contours::polyline::BooleanResultPline<Polyline<f64>>]| {
        list.iter().filter_map(|r| tidy(&r.pline)).collect::<Vec<_>>()
    };
    (tidied(&result.pos_plines), tidied(&result.neg_plines))
}

fn overlap(a: &Outline, b: &Outline) -> bool {
    !rings(a, b, BooleanOp::And).0.is_empty()
}

/// The shape without what lies within a ring: nothing, one piece or several.
fn without(shape: &Shape, cutter: &Outline) -> Vec<Shape> {
    // The cutter first swallows the holes that it meets.
    let (mut cutter, mut holes) = (cutter.wound(), Vec::new());
    let mut islands = Vec::new();
    for hole in &shape.holes {
        if overlap(&cutter, hole) {
            let (outer, inner) = rings(&cutter, hole, BooleanOp::Or);
            match <[Outline; 1]>::try_from(outer) {
                Ok([one]) => {
                    cutter = one;
                    // Ground that cutter and hole close in between them is left standing.
                    islands.extend(inner);
                }
                Err(_) => holes.push(hole.clone()),
            }
        } else {
            holes.push(hole.clone());
        }
    }
    let (pieces, new_holes) = rings(&shape.outline, &cutter, BooleanOp::Not);
    holes.extend(new_holes);
    let mut shapes: Vec<Shape> = pieces.into_iter().chain(islands).map(Shape::plain).collect();
    for hole in holes {
        let probe = hole.0[0].at;
        if let Some(home) = shapes.iter_mut().find(|s| s.outline.contains(probe)) {
            home.holes.push(hole);
        }
    }
    shapes
}

/// Takes other shapes out of one: paving out of a lawn. The largest piece comes first. Holes of
/// the cutters stay: a bed within a ring of paving is ground again. Arcs stay arcs; metres.
///
/// # Source
/// Parallel offset and boolean operations on polylines with arcs, as the `cavalier_contours` package does
/// them.
///
/// # Example
/// 10 x 10 m less a path of 2 m right across it: two pieces, 80 m2 together.
///
/// # Errors
/// No overlap, or nothing left.
pub fn cut(shape: &Shape, cutters: &[&Shape]) -> Result<Vec<Shape>, CombineError> {
    let mut pieces = vec![shape.clone()];
    let mut taken = false;
    for cutter in cutters {
        let mut next = Vec::new();
        for piece in &pieces {
            if !overlap(&piece.outline, &cutter.outline) {
                next.push(piece.clone());
                continue;
            }
            taken = true;
            next.extend(without(piece, &cutter.outline));
            for hole in &cutter.holes {
                let (kept, _) = rings(&piece.outline, hole, BooleanOp::And);
                next.extend(kept.into_iter().map(Shape::plain));
            }
        }
        pieces = next;
    }
    if !taken {
        return Err(CombineError::NoOverlap);
    }
    pieces.retain(|p| p.area_m2() > CRUMB);
    if pieces.is_empty() {
        return Err(CombineError::NothingLeft);
    }
    pieces.sort_by(|a, b| b.area_m2().total_cmp(&a.area_m2()));
    Ok(pieces)
}

/// One shape of two that touch or overlap. Arcs stay arcs; metres.
///
/// # Source
/// Parallel offset and boolean operations on polylines with arcs, as the `cavalier_contours` package does
/// them.
///
/// # Example
/// Two squares of 10 m that share an edge make 200 m2.
///
/// # Errors
/// They are apart.
pub fn join(a: &Shape, b: &Shape) -> Result<Shape, CombineError> {
    let (outer, mut holes) = rings(&a.outline, &b.outline, BooleanOp::Or);
    let [outline] = <[Outline; 1]>::try_from(outer).map_err(|_| CombineError::Apart)?;
    // Holes of one shape are filled where the other covers them.
    for (mine, other) in [(a, b), (b, a)] {
        for hole in &mine.holes {
            let rest = if overlap(hole, &other.outline) {
                rings(hole, &other.outline, BooleanOp::Not).0
            } else {
                vec![hole.clone()]
            };
            holes.extend(rest);
            // Where both have a hole, the ground stays open.
            holes.extend(
                other
                    .holes
                    .iter()
                    .filter(|_| std::ptr::eq(mine, a))
                    .flat_map(|h| rings(hole, h, BooleanOp::And).0),
            );
        }
    }
    Ok(Shape { outline, holes })
}

/// Parts a shape along the straight line through two points, which may end beyond its edge. The parts'
/// areas sum to the whole; metres.
///
/// # Source
/// Parallel offset and boolean operations on polylines with arcs, as the `cavalier_contours` package does
/// them.
///
/// # Errors
/// The line does not run right across.
pub fn split(shape: &Shape, from: Point, to: Point) -> Result<Vec<Shape>, CombineError> {
    let along = (to - from).unit().filter(|_| from.distance(to) > SAME).ok_or(CombineError::NotAcross)?;
    // Only the part between the points cuts: they must lie outside or on the edge.
    let (a, b) = (from - along * 0.01, to + along * 0.01);
    if shape.contains(a) || shape.contains(b) {
        return Err(CombineError::NotAcross);
    }
    let far = along.left() * (4.0 * FURTHEST);
    let side = |off: Point| Outline::straight(&[a, b, b + off, a + off]);
    let mut pieces = Vec::new();
    // What lies beyond the ends of the line belongs to no side: it must be nothing.
    for half in [side(far), side(Point::default() - far).reversed()] {
        let left = if overlap(&shape.outline, &half) { without(shape, &half) } else { vec![shape.clone()] };
        pieces.push(left);
    }
    let [mut right, left] = <[Vec<Shape>; 2]>::try_from(pieces).map_err(|_| CombineError::NotAcross)?;
    let total: f64 = right.iter().chain(&left).map(Shape::area_m2).sum();
    if (total - shape.area_m2()).abs() > 0.01 * shape.area_m2().max(0.1)
        || right.is_empty()
        || left.is_empty()
    {
        return Err(CombineError::NotAcross);
    }
    right.extend(left);
    right.sort_by(|a, b| b.area_m2().total_cmp(&a.area_m2()));
    Ok(right)
}

/// The outline moved by a distance everywhere: outwards where positive. Corners stay corners inwards and
/// become arcs outwards; it may fall into several rings.
///
/// # Source
/// Parallel offset and boolean operations on polylines with arcs, as the `cavalier_contours` package does
/// them.
///
/// # Example
/// A square of 10 m moved in by 1 m is one of 8 m: 64 m2.
///
/// # Errors
/// A distance of nothing; nothing left inside.
pub fn offset(ring: &Outline, distance: Length) -> Result<Vec<Outline>, CombineError> {
    if !(distance.m().abs() > SAME && distance.m().abs() <= 1_000.0) {
        return Err(CombineError::Distance);
    }
    // Of a counter-clockwise ring the left is inside.
    let mut found: Vec<Outline> =
        ring.wound().line().parallel_offset(-distance.m()).iter().filter_map(tidy).collect();
    found.sort_by(|a, b| b.signed_area().abs().total_cmp(&a.signed_area().abs()));
    if found.is_empty() { Err(CombineError::NothingLeft) } else { Ok(found) }
}

/// The strip along one edge of a ring, as wide as told: outside where positive, inside where not. Along an
/// arc it is a part of an annulus.
///
/// # Source
/// Elementary geometry.
///
/// # Errors
/// No such edge; no width; an inner strip wider than its arc.
pub fn strip(ring: &Outline, edge: usize, width: Length) -> Result<Outline, CombineError> {
    if !(width.m().abs() > SAME && width.m().abs() <= 1_000.0) {
        return Err(CombineError::Distance);
    }
    let wound = ring.signed_area() >= 0.0;
    let e = ring.edges().nth(edge).ok_or(CombineError::NoEdge)?;
    let base =
        Path(vec![super::Vertex { at: e.from, bulge: e.bulge }, super::Vertex { at: e.to, bulge: 0.0 }]);
    let left = if wound { -width.m() } else { width.m() };
    let beside = base
        .line()
        .parallel_offset(left)
        .first()
        .map(Path::of)
        .filter(|p| p.0.len() == 2)
        .ok_or(CombineError::NothingLeft)?;
    let mut vertices = base.0;
    // Back along the other side: the bend turns round.
    vertices.push(super::Vertex { at: beside.0[1].at, bulge: -beside.0[0].bulge });
    vertices.push(super::Vertex { at: beside.0[0].at, bulge: 0.0 });
    Ok(Outline(vertices).wound())
}

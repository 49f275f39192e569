//! How near heads stand to the edge of their area.

use crate::site::{Point, Shape};

/// Heads nearer to an edge than this are in the mower's way, m: 2 in.
pub const NEAREST_EDGE: f64 = 0.0508;
/// Where they are set instead, m: a little over it, so that the strip behind a head stays small.
pub const OFF_EDGE: f64 = 0.055;

/// How far a point lies from the edge of a shape, metres (negative outside), and the way in from
/// there, one metre long.
pub fn edge_point(shape: &Shape, at: Point) -> Option<(f64, Point)> {
    let mut best: Option<(f64, Point)> = None;
    for (i, ring) in shape.rings().enumerate() {
        let ring = if (ring.signed_area() > 0.0) == (i == 0) { ring.clone() } else { ring.reversed() };
        let points = ring.flat(0.01);
        for (a, b) in points.iter().zip(points.iter().cycle().skip(1)) {
            let along = *b - *a;
            let share = ((at - *a).dot(along) / along.dot(along).max(1e-12)).clamp(0.0, 1.0);
            let far = at.distance(*a + along * share);
            if let Some(inward) = along.left().unit().filter(|_| best.is_none_or(|b| far < b.0)) {
                best = Some((far, inward));
            }
        }
    }
    let inside = shape.contains(at);
    best.map(|(far, inward)| (if inside { far } else { -far }, inward))
}

use super::shape::bounds;
use super::{Point, Shape, inside, to_segment};
use crate::units::Length;
use std::cmp::Ordering;
use std::collections::BinaryHeap;

/// How near to the true width the answer is, metres.
const NEAR: f64 = 0.0005;
/// How far a flat piece may lie off its arc, metres.
const FLAT: f64 = 0.0005;
/// Squares looked at before it is good enough: outlines of thousands of corners end there.
const MOST_SQUARES: usize = 20_000;

/// Width of ground at its widest: across the largest circle that lies on one of its pieces, to half
/// a millimetre. A rectangle of 40 by 24 ft is 24 ft wide, a triangle as wide as its inner circle.
///
/// Squares are halved where they can still hold a better middle (a branch and bound over the
/// distance to the nearest edge, which changes by no more than one goes).
///
/// # Valid range
/// Pieces with an outline of three corners or more; none, or flat ones: zero.
///
/// # Source
/// Garcia-Castellanos and Lombardo, *Poles of inaccessibility* (2007), for the question.
pub fn widest(pieces: &[Shape]) -> Length {
    widest_to(pieces, NEAR)
}

/// As [`widest`], to so many metres and at most so much too narrow: a layout needs no half millimetre, and long
/// ground is as wide in so many places that each step nearer takes ten times the squares.
pub fn widest_to(pieces: &[Shape], near: f64) -> Length {
    let clear = pieces.iter().map(|p| inner_radius(p, near)).fold(0.0, f64::max);
    Length::from_m(2.0 * clear)
}

fn inner_radius(piece: &Shape, near: f64) -> f64 {
    let rings: Vec<Vec<Point>> = piece.rings().map(|r| r.flat(FLAT)).collect();
    let Some((low, high)) = bounds(rings.iter().flatten().copied()) else {
        return 0.0;
    };
    let size = (high.x - low.x).min(high.y - low.y);
    if size < near {
        return 0.0;
    }
    let mut open = BinaryHeap::new();
    let mut best = Square::at(low.middle(high), 0.0, &rings);
    let (across, up) = (((high.x - low.x) / size).ceil(), ((high.y - low.y) / size).ceil());
    for i in 0..(across.min(1000.0) as u32) {
        for k in 0..(up.min(1000.0) as u32) {
            let corner = low + Point::new(f64::from(i) * size, f64::from(k) * size);
            open.push(Square::at(corner + Point::new(size / 2.0, size / 2.0), size / 2.0, &rings));
        }
    }
    let mut looked = 0;
    while let Some(square) = open.pop() {
        if square.clear > best.clear {
            best = square.clone();
        }
        looked += 1;
        if square.most() - best.clear <= near / 2.0 || looked > MOST_SQUARES {
            break;
        }
        let half = square.half / 2.0;
        for (dx, dy) in [(-half, -half), (half, -half), (-half, half), (half, half)] {
            let part = Square::at(square.middle + Point::new(dx, dy), half, &rings);
            if part.most() > best.clear + near / 2.0 {
                open.push(part);
            }
        }
    }
    best.clear.max(0.0)
}

/// A square of ground, with how far its middle lies from the nearest edge; off the ground below zero.
#[derive(Clone)]
struct Square {
    middle: Point,
    half: f64,
    clear: f64,
}

impl Square {
    fn at(middle: Point, half: f64, rings: &[Vec<Point>]) -> Self {
        let edge = |ring: &Vec<Point>| {
            let next = ring.iter().cycle().skip(1);
            let pairs = ring.iter().zip(next);
            pairs.map(|(a, b)| to_segment(middle, *a, *b)).fold(f64::MAX, f64::min)
        };
        let far = rings.iter().map(edge).fold(f64::MAX, f64::min);
        let clear = if inside(rings, middle) { far } else { -far };
        Self { middle, half, clear }
    }

    /// No middle within it is clearer than this.
    fn most(&self) -> f64 {
        self.clear + self.half * std::f64::consts::SQRT_2
    }
}

impl PartialEq for Square {
    fn eq(&self, other: &Self) -> bool {
        self.cmp(other).is_eq()
    }
}
impl Eq for Square {}
impl PartialOrd for Square {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}
impl Ord for Square {
    fn cmp(&self, other: &Self) -> Ordering {
        self.most().total_cmp(&other.most())
    }
}

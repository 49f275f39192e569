//! Whether drawn heads reach each other, along the rows and between them.

use super::Direction;
use crate::coverage::Source;
use crate::site::{Point, Shape};

/// A neighbour stands in a direction if it stands within so many degrees of it.
const CONE: f64 = 50.0;
/// The share of the throw that a neighbour may be away in one of the directions: still air's 55 % of the
/// diameter.
const WIDEST: f64 = 1.10;
/// The same to the nearest head of all.
const NEAREST: f64 = 1.05;
/// Half circles along an edge look just along it: their neighbours count though they stand on the rim.
const RIM: f64 = 8.0;

/// A head that does not reach a neighbour.
#[derive(Debug, Clone, Copy)]
pub(super) struct Gap {
    /// How far that is, metres.
    pub gap: f64,
    /// The head's throw, metres.
    pub throw: f64,
    /// In which direction.
    pub along: Direction,
}

/// Of every head that throws over a sector its widest gap, where one is too wide. Directions are those
/// of the area's longest edge and square to it; where the area ends sooner nobody need stand.
pub(super) fn gaps(shape: &Shape, sources: &[Source<'_>]) -> Vec<Gap> {
    // Strips and squares stand end to end by design.
    let heads: Vec<(Point, f64, &Source<'_>)> = sources
        .iter()
        .filter(|s| s.nozzle.pattern.is_none())
        .map(|s| (s.head.at, s.throw().reach, s))
        .collect();
    if heads.len() < 2 {
        return Vec::new();
    }
    let row = longest_edge(shape);
    let of = |i: usize| {
        let (at, throw, source) = heads[i];
        let others = || (0..heads.len()).filter(move |j| *j != i).map(|j| heads[j].0);
        let nearest = others().map(|p| at.distance(p)).fold(f64::MAX, f64::min);
        let mut found: Vec<Gap> = Vec::new();
        if nearest > throw * NEAREST {
            found.push(Gap {
                gap: nearest,
                throw,
                along: Direction::Nearest,
            });
        }
        for (turn, along) in [
            (0.0, Direction::Row),
            (90.0, Direction::Rows),
            (180.0, Direction::Row),
            (270.0, Direction::Rows),
        ] {
            let direction = row + turn;
            let half = f64::from(source.head.arc) / 2.0 + RIM;
            if source.head.arc < 360 && apart(direction, source.head.facing) > half {
                continue;
            }
            let in_cone = |p: &Point| apart(at.direction_to(*p), direction) <= CONE;
            let next = others()
                .filter(in_cone)
                .map(|p| at.distance(p))
                .fold(f64::MAX, f64::min);
            let gap = next.min(to_edge(shape, at, direction, throw * 2.0));
            if gap > throw * WIDEST {
                found.push(Gap { gap, throw, along });
            }
        }
        found.into_iter().max_by(|a, b| a.gap.total_cmp(&b.gap))
    };
    (0..heads.len()).filter_map(of).collect()
}

fn apart(a: f64, b: f64) -> f64 {
    let d = (a - b).rem_euclid(360.0);
    d.min(360.0 - d)
}

fn longest_edge(shape: &Shape) -> f64 {
    let longest = shape
        .outline
        .edges()
        .max_by(|a, b| a.length().total_cmp(&b.length()));
    longest.map_or(0.0, |e| e.from.direction_to(e.to))
}

/// How far the ground goes on in a direction, metres, up to `most`.
fn to_edge(shape: &Shape, at: Point, direction: f64, most: f64) -> f64 {
    const STEPS: u32 = 40;
    let step = most / f64::from(STEPS);
    let inside = |k: &u32| shape.contains(at.toward(direction, step * f64::from(*k)));
    // The head itself may stand on the very edge: it is looked at from one step on.
    let last = (1..=STEPS).take_while(inside).last().unwrap_or(0);
    step * f64::from(last)
}

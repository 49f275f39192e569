//! Whether heads reach each other, along the rows and between them.

use crate::site::{Point, Shape};

/// A neighbour stands in a direction if it stands within so many degrees of it.
const CONE: f64 = 50.0;
/// The share of the throw that a neighbour may be away in one of the directions: still air's 55 % of the
/// diameter, and a hand's breadth, since ground is seldom a whole number of throws.
const WIDEST: f64 = 1.15;
/// The same to the nearest head of all.
pub(crate) const NEAREST: f64 = 1.07;
/// Half circles along an edge look just along it: their neighbours count though they stand on the rim.
const RIM: f64 = 8.0;

/// Share of the edge that must be one straight line for heads to stand in rows along it.
const ROWS_FROM: f64 = 0.15;
/// Where neighbours are looked for, degrees from the longest edge.
const TURNS: [(f64, Direction); 4] =
    [(0.0, Direction::Row), (90.0, Direction::Rows), (180.0, Direction::Row), (270.0, Direction::Rows)];

/// In which direction heads do not reach each other.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Direction {
    /// To the next head in the row.
    Row,
    /// To the next row.
    Rows,
    /// To the nearest head at all.
    Nearest,
}

/// A head that throws over a sector, as its neighbours see it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Reaching {
    /// Where it stands.
    pub at: Point,
    /// Metres it throws.
    pub throw: f64,
    /// Degrees watered.
    pub arc: u16,
    /// Middle of the arc, degrees.
    pub facing: f64,
}

/// A head that does not reach a neighbour.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Gap {
    /// How far that is, metres.
    pub gap: f64,
    /// The head's throw, metres.
    pub throw: f64,
    /// In which direction.
    pub along: Direction,
}

/// Of every head its widest gap, where one is too wide: over 1.07 of its throw to the nearest head, over
/// 1.15 to the next one along the area's longest edge or square to it. Where the area ends sooner nobody
/// need stand.
///
/// # Source
/// Head to head as practised: 55 % of the diameter in still air at the most.
pub fn gaps(shape: &Shape, heads: &[Reaching]) -> Vec<Gap> {
    let (row, straight) = longest_edge(shape);
    let row = (straight >= ROWS_FROM).then_some(row);
    let inside = |p: Point| shape.contains(p);
    let widest = |i: usize| {
        let all = neighbours(heads, i, row, &inside).into_iter();
        let too_wide = all.filter(|g| g.gap > g.throw * bears(g.along));
        too_wide.max_by(|a, b| a.gap.total_cmp(&b.gap))
    };
    (0..heads.len()).filter_map(widest).collect()
}

/// The least throw with which each head still reaches its neighbours, metres; rows lie along `row`, if any.
pub(crate) fn least_throws(heads: &[Reaching], row: Option<f64>, inside: &dyn Fn(Point) -> bool) -> Vec<f64> {
    let least = |i: usize| {
        let all = neighbours(heads, i, row, inside).into_iter();
        all.map(|g| g.gap / bears(g.along)).fold(0.0, f64::max)
    };
    (0..heads.len()).map(least).collect()
}

/// Share of the throw that a gap may be.
fn bears(along: Direction) -> f64 {
    match along {
        Direction::Nearest => NEAREST,
        Direction::Row | Direction::Rows => WIDEST,
    }
}

/// How far it is from a head to the nearest other, and to the next in each direction that it waters.
fn neighbours(heads: &[Reaching], i: usize, row: Option<f64>, inside: &dyn Fn(Point) -> bool) -> Vec<Gap> {
    let Reaching { at, throw, arc, facing } = heads[i];
    let away = (0..heads.len()).filter(|j| *j != i).map(|j| (j, at.distance(heads[j].at)));
    // Gaps are told up to twice the throw: who stands farther off is no neighbour.
    let (mut nearest, mut near): (f64, Vec<(f64, f64)>) = (f64::MAX, Vec::new());
    for (j, far) in away {
        nearest = nearest.min(far);
        if far <= throw * 2.0 {
            near.push((far, at.direction_to(heads[j].at)));
        }
    }
    if nearest == f64::MAX {
        return Vec::new();
    }
    let mut found = vec![Gap { gap: nearest, throw, along: Direction::Nearest }];
    for (turn, along) in row.into_iter().flat_map(|row| TURNS.map(|t| (row + t.0, t.1))) {
        if arc < 360 && apart(turn, facing) > f64::from(arc) / 2.0 + RIM {
            continue;
        }
        let in_cone = near.iter().filter(|n| apart(n.1, turn) <= CONE);
        let next = in_cone.map(|n| n.0).fold(f64::MAX, f64::min);
        let gap = if next <= throw { next } else { next.min(to_edge(inside, at, turn, throw * 2.0)) };
        found.push(Gap { gap, throw, along });
    }
    found
}

fn apart(a: f64, b: f64) -> f64 {
    let d = (a - b).rem_euclid(360.0);
    d.min(360.0 - d)
}

/// Direction of the longest straight edge, and the share of the whole edge that it is.
fn longest_edge(shape: &Shape) -> (f64, f64) {
    let straight = shape.outline.edges().filter(|e| e.bulge == 0.0);
    let longest = straight.max_by(|a, b| a.length().total_cmp(&b.length()));
    longest.map_or((0.0, 0.0), |e| (e.from.direction_to(e.to), e.length() / shape.perimeter().max(0.01)))
}

/// Beside a line, metres.
const BESIDE: f64 = 0.02;

/// How far the ground goes on in a direction, metres, up to `most`.
fn to_edge(inside: &dyn Fn(Point) -> bool, at: Point, direction: f64, most: f64) -> f64 {
    const STEPS: u32 = 40;
    let step = most / f64::from(STEPS);
    // Along an edge, on which a head may stand, the ground lies just to one side.
    let on = |k: &u32| {
        let there = at.toward(direction, step * f64::from(*k));
        [0.0, BESIDE, -BESIDE].iter().any(|by| inside(there.toward(direction + 90.0, *by)))
    };
    // The head itself may stand on the very edge: it is looked at from one step on.
    let last = (1..=STEPS).take_while(on).last().unwrap_or(0);
    step * f64::from(last)
}

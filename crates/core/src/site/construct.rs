//! Points and edges the way they are measured outside: with a tape.

use super::SAME;
use super::outline::{Edge, Outline, Vertex};
use super::point::Point;
use crate::units::{Length, UnitSystem};

fn us(length: &Length) -> String {
    length.show(UnitSystem::Us)
}

/// Why a construction is impossible.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum ConstructError {
    /// A length that must be more than zero.
    #[error("lengths must be more than zero")]
    NotPositive,
    /// Two tapes from one point.
    #[error("both known points are the same. Measure from two separate points")]
    OnePoint,
    /// Tapes that do not meet.
    #[error("tapes of {} and {} do not reach each other; the points are {} apart", us(.0), us(.1), us(.2))]
    NoMeeting(Length, Length, Length),
    /// One tape longer than the other and the distance together.
    #[error("a tape of {} is too long: the other is {} and the points are {} apart", us(.0), us(.1), us(.2))]
    Overshoots(Length, Length, Length),
    /// No such corner.
    #[error("there is no corner {0}")]
    NoCorner(usize),
    /// A corner between arcs, or no corner at all.
    #[error("only a corner between two straight edges can be cut or rounded")]
    NotACorner,
    /// More than the edges have.
    #[error("needs {} of an edge only {} long", us(.0), us(.1))]
    TooLong(Length, Length),
    /// Points in one line.
    #[error("the point is on the straight line, so the edge is straight")]
    Flat,
}

impl ConstructError {
    /// The same in the job's units.
    pub fn show(&self, u: UnitSystem) -> String {
        match self {
            Self::NoMeeting(a, b, d) => format!(
                "tapes of {} and {} do not reach each other; the points are {} apart",
                a.show(u),
                b.show(u),
                d.show(u)
            ),
            Self::Overshoots(a, b, d) => format!(
                "a tape of {} is too long: the other is {} and the points are {} apart",
                a.show(u),
                b.show(u),
                d.show(u)
            ),
            Self::TooLong(a, b) => format!("needs {} of an edge only {} long", a.show(u), b.show(u)),
            other => other.to_string(),
        }
    }
}

/// The two points that lie `a` from one known point and `b` from another: first the one to the
/// left of the line from the first to the second. They are one where the tapes just meet.
///
/// With d between the known points, x = (a² − b² + d²) / 2d along the line and √(a² − x²) off it; lengths
/// over zero, metres.
///
/// # Source
/// Tie measurements with two tapes; elementary geometry.
///
/// # Example
/// Tapes of 3 m and 4 m from points 5 m apart meet 1.8 m along the line and 2.4 m off it.
///
/// # Errors
/// The tapes don't meet, or the known points are one.
pub fn triangulate(first: Point, a: Length, second: Point, b: Length) -> Result<[Point; 2], ConstructError> {
    let d = first.distance(second);
    let (a, b) = (a.m(), b.m());
    if !(a > 0.0 && b > 0.0) {
        return Err(ConstructError::NotPositive);
    }
    let Some(along) = (second - first).unit().filter(|_| d >= SAME) else {
        return Err(ConstructError::OnePoint);
    };
    let lengths = |x: f64, y: f64| (Length::from_m(x), Length::from_m(y), Length::from_m(d));
    if a + b < d - SAME {
        let (a, b, d) = lengths(a, b);
        return Err(ConstructError::NoMeeting(a, b, d));
    }
    if (a - b).abs() > d + SAME {
        let (a, b, d) = lengths(a.max(b), a.min(b));
        return Err(ConstructError::Overshoots(a, b, d));
    }
    // Law of cosines: x along the line, y off it.
    let x = (a * a - b * b + d * d) / (2.0 * d);
    let y = (a * a - x * x).max(0.0).sqrt();
    let foot = first + along * x;
    Ok([foot + along.left() * y, foot - along.left() * y])
}

/// A rectangle by two lengths: the first edge runs from `corner` in a direction (degrees
/// counter-clockwise from the right), the second to its left. Lengths over zero, metres; area w · l.
///
/// # Source
/// Elementary geometry.
///
/// # Errors
/// A length that is not more than zero.
pub fn rectangle(
    corner: Point,
    degrees: f64,
    along: Length,
    across: Length,
) -> Result<Outline, ConstructError> {
    if !(along.m() > 0.0 && across.m() > 0.0) {
        return Err(ConstructError::NotPositive);
    }
    let far = corner.toward(degrees, along.m());
    let up = corner.toward(degrees + 90.0, across.m()) - corner;
    Ok(Outline::straight(&[corner, far, far + up, corner + up]))
}

/// The bulge of the edge between two points that passes through a third: the tangent of a quarter of the
/// arc's angle, tan(θ / 4), with θ from the inscribed angle at the third point.
///
/// # Source
/// Inscribed angles (Euclid III.20); bulge as drawing exchange files have it.
///
/// # Example
/// From (−1, 0) to (1, 0) through (0, −1): half a circle, bulge 1.
///
/// # Errors
/// The points lie in one line or on one another.
pub fn bend_through(from: Point, to: Point, through: Point) -> Result<f64, ConstructError> {
    // The angle at the point on the arc is half a turn less half the arc (Euclid III.20).
    let (u, v) = (from - through, to - through);
    let angle = v.cross(u).atan2(u.dot(v));
    if u.norm() < SAME || v.norm() < SAME || angle.sin().abs() < 1e-9 {
        return Err(ConstructError::Flat);
    }
    let sign = angle.signum();
    Ok(sign * ((std::f64::consts::PI - angle.abs()) / 2.0).tan())
}

struct Corner {
    before: Edge,
    after: Edge,
    previous: usize,
}

fn corner(ring: &Outline, index: usize) -> Result<Corner, ConstructError> {
    let n = ring.0.len();
    if index >= n {
        return Err(ConstructError::NoCorner(index + 1));
    }
    let previous = (index + n - 1) % n;
    let edges: Vec<Edge> = ring.edges().collect();
    let (before, after) = (edges[previous], edges[index]);
    if before.bulge != 0.0 || after.bulge != 0.0 {
        return Err(ConstructError::NotACorner);
    }
    Ok(Corner { before, after, previous })
}

/// Cuts a corner off: a straight edge between the points `cut` from it on both sides. `cut` over zero,
/// metres.
///
/// # Source
/// Elementary geometry.
///
/// # Errors
/// No such corner, a corner of arcs, or edges shorter than the cut.
pub fn chamfer(ring: &Outline, index: usize, cut: Length) -> Result<Outline, ConstructError> {
    trim(ring, index, cut, 0.0)
}

/// Rounds a corner with an arc of a radius that touches both edges: it begins r / tan(α / 2) from a corner of
/// α on each of them. `radius` over zero, metres.
///
/// # Source
/// Elementary geometry: the tangents from a point to a circle are equal.
///
/// # Example
/// A right angle rounded with 2 m loses 2 m of both edges and (4 − π) m2.
///
/// # Errors
/// As [`chamfer`]; also where the edges run straight on.
pub fn round(ring: &Outline, index: usize, radius: Length) -> Result<Outline, ConstructError> {
    let c = corner(ring, index)?;
    let (Some(into), Some(out)) = ((c.before.to - c.before.from).unit(), (c.after.to - c.after.from).unit())
    else {
        return Err(ConstructError::NotACorner);
    };
    // Positive where the ring turns left.
    let turn = into.cross(out).atan2(into.dot(out));
    if turn.abs() < 1e-6 || turn.abs() > std::f64::consts::PI - 1e-6 {
        return Err(ConstructError::NotACorner);
    }
    let cut = radius.m() * (turn.abs() / 2.0).tan();
    trim(ring, index, Length::from_m(cut), (turn / 4.0).tan())
}

fn trim(ring: &Outline, index: usize, cut: Length, bulge: f64) -> Result<Outline, ConstructError> {
    let c = corner(ring, index)?;
    if cut.m().is_nan() || cut.m() <= SAME {
        return Err(ConstructError::NotPositive);
    }
    for edge in [c.before, c.after] {
        if edge.length() < cut.m() + SAME {
            return Err(ConstructError::TooLong(cut, Length::from_m(edge.length())));
        }
    }
    let back = c.before.at(1.0 - cut.m() / c.before.length());
    let on = c.after.at(cut.m() / c.after.length());
    let mut vertices = ring.0.clone();
    vertices[index] = Vertex { at: back, bulge };
    vertices.insert(index + 1, Vertex { at: on, bulge: 0.0 });
    debug_assert!(c.previous < ring.0.len());
    Ok(Outline(vertices))
}

//! What no layout can beat: lower bounds on trench.

use super::tree::meeting_point;
use crate::earthwork::spanning_length;
use crate::site::Point;

/// No tree with meeting points is shorter than so much of the shortest without any.
///
/// # Source
/// Chung and Graham (1985), "A new bound for Euclidean Steiner minimal trees". (That it is √3/2 is
/// conjectured only.)
const STEINER_RATIO: f64 = 0.824_168;

/// Trench that any layout needs to join these points, m, whatever may be dug: exact for two and three
/// points, at least 0.824 of the shortest spanning tree for more.
pub fn least_trench(points: &[Point]) -> f64 {
    match points {
        [a, b] => a.distance(*b),
        [a, b, c] => {
            let at = meeting_point([*a, *b, *c]);
            [a, b, c].iter().map(|p| p.distance(at)).sum()
        }
        more => spanning_length(more) * STEINER_RATIO,
    }
}

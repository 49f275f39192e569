use super::SAME;
use super::point::Point;
use crate::units::Length;

/// Height of the ground at a point, from spot heights; none where there are none.
///
/// h = Σ h_i / d_i² / Σ 1 / d_i². Weights fall with the square of the distance (Shepard 1968, "A
/// two-dimensional interpolation function for irregularly-spaced data"). Chosen over triangles because it
/// needs no hull: it is exact at every spot, never leaves the range that was measured, and works with one
/// spot.
pub fn height_at(spots: &[(Point, Length)], at: Point) -> Option<Length> {
    let mut sum = (0.0, 0.0);
    for (spot, height) in spots {
        let d = spot.distance(at);
        if d < SAME {
            return Some(*height);
        }
        let weight = 1.0 / (d * d);
        sum = (sum.0 + weight * height.m(), sum.1 + weight);
    }
    (sum.1 > 0.0).then(|| Length::from_m(sum.0 / sum.1))
}

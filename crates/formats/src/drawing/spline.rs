//! Splines as straight pieces.

use fenlo_core::site::Point;

/// Pieces to one span between knots.
const PIECES: usize = 24;

/// Points along a spline of a degree, by de Boor's scheme on weighted control points (Piegl and
/// Tiller 1997, "The NURBS Book", algorithm A4.1). `None` where the figures make no spline.
pub(super) fn flatten(degree: usize, knots: &[f64], control: &[Point], weights: &[f64]) -> Option<Vec<Point>> {
    let n = control.len();
    if !(1..=10).contains(&degree) || n <= degree || knots.len() != n + degree + 1 || knots.iter().any(|k| !k.is_finite()) || knots.windows(2).any(|k| k[0] > k[1]) {
        return None;
    }
    let weight = |i: usize| weights.get(i).copied().filter(|w| *w > 0.0).unwrap_or(1.0);
    let mut points = Vec::new();
    for span in degree..n {
        let (from, to) = (knots[span], knots[span + 1]);
        if to <= from {
            continue;
        }
        let last = (span + 1..n).all(|s| knots[s + 1] <= knots[s]);
        for piece in 0..PIECES + usize::from(last) {
            let t = from + (to - from) * piece as f64 / PIECES as f64;
            let mut d: Vec<[f64; 3]> = (0..=degree)
                .map(|j| {
                    let i = span - degree + j;
                    [control[i].x * weight(i), control[i].y * weight(i), weight(i)]
                })
                .collect();
            for r in 1..=degree {
                for j in (r..=degree).rev() {
                    let i = span - degree + j;
                    let width = knots[i + degree + 1 - r] - knots[i];
                    let a = if width > 0.0 { (t - knots[i]) / width } else { 0.0 };
                    let before = d[j - 1];
                    for (here, before) in d[j].iter_mut().zip(before) {
                        *here = (1.0 - a) * before + a * *here;
                    }
                }
            }
            let [x, y, w] = d[degree];
            points.push(Point::new(x / w, y / w));
        }
    }
    (points.len() > 1 && points.iter().all(|p| p.x.is_finite() && p.y.is_finite())).then_some(points)
}

//! Splines as straight pieces.

use fenlo_core::site::Point;

/// Pieces to one span between knots.
const PIECES: usize = 24;

/// Points along a spline of a degree, by de Boor's scheme on weighted control points (Piegl and
/// Tiller 1997, "The NURBS Book", algorithm A4.1). `None` where the figures make no spline.
pub(super) fn flatten(
    degree: usize,
    knots: &[f64],
    control: &[Point],
    weights: &[f64],
) -> Option<Vec<Point>> {
    let n = control.len();
    if !(1..=10).contains(&degree)
        || n <= degree
        || knots.len() != n + degree + 1
        || knots.iter().any(|k| !k.is_finite())
        || knots.windows(2).any(|k| k[0] > k[1])
    {
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

/// A curve through points: the natural cubic spline over the chords between them (de Boor 2001, "A Practical
/// Guide to Splines", chapter IV). `None` for fewer than two points.
pub(super) fn through(points: &[Point]) -> Option<Vec<Point>> {
    let mut points = points.to_vec();
    points.dedup_by(|a, b| a.distance(*b) < 1e-9);
    let n = points.len();
    if n < 3 {
        return (n == 2).then_some(points);
    }
    let span: Vec<f64> = points.windows(2).map(|w| w[0].distance(w[1])).collect();
    let along = |of: fn(&Point) -> f64| -> Vec<f64> {
        // Second derivatives, by elimination of the three diagonals.
        let (mut upper, mut right) = (vec![0.0; n], vec![0.0; n]);
        for i in 1..n - 1 {
            let slope = |k: usize| (of(&points[k + 1]) - of(&points[k])) / span[k];
            let middle = 2.0 * (span[i - 1] + span[i]) - span[i - 1] * upper[i - 1];
            upper[i] = span[i] / middle;
            right[i] = (6.0 * (slope(i) - slope(i - 1)) - span[i - 1] * right[i - 1]) / middle;
        }
        let mut second = vec![0.0; n];
        for i in (1..n - 1).rev() {
            second[i] = right[i] - upper[i] * second[i + 1];
        }
        second
    };
    let (sx, sy) = (along(|p| p.x), along(|p| p.y));
    let mut out = Vec::with_capacity((n - 1) * PIECES + 1);
    for i in 0..n - 1 {
        let h = span[i];
        for piece in 0..PIECES {
            let b = piece as f64 / PIECES as f64;
            let a = 1.0 - b;
            let bend = |s: &[f64]| ((a.powi(3) - a) * s[i] + (b.powi(3) - b) * s[i + 1]) * h * h / 6.0;
            let straight = points[i] * a + points[i + 1] * b;
            out.push(straight + Point::new(bend(&sx), bend(&sy)));
        }
    }
    out.push(points[n - 1]);
    out.iter().all(|p| p.x.is_finite() && p.y.is_finite()).then_some(out)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn a_weighted_spline_is_a_true_quarter_circle() {
        let control = [Point::new(5.0, 0.0), Point::new(5.0, 5.0), Point::new(0.0, 5.0)];
        let weights = [1.0, std::f64::consts::FRAC_1_SQRT_2, 1.0];
        let points = flatten(2, &[0.0, 0.0, 0.0, 1.0, 1.0, 1.0], &control, &weights).unwrap();
        assert_eq!(points.len(), PIECES + 1);
        assert!(points.iter().all(|p| (p.norm() - 5.0).abs() < 1e-12), "{points:?}");
        // Without weights it is a parabola, which bulges less: half way at (3.75, 3.75).
        let plain = flatten(2, &[0.0, 0.0, 0.0, 1.0, 1.0, 1.0], &control, &[]).unwrap();
        assert!(plain[PIECES / 2].distance(Point::new(3.75, 3.75)) < 1e-12);
    }

    #[test]
    fn a_curve_goes_through_its_points_and_between_them_bends() {
        // Natural spline through (0, 0), (1, 1), (2, 0) over chords of sqrt 2: its second derivative in the
        // middle is -3 / 2 of the kink, and at a quarter of the first span y = 0.25 + 0.0586 = 0.3672 (by
        // hand, h = 1: M = -3, y(t) = t + (t - t^3) / 2).
        let points = [Point::new(0.0, 0.0), Point::new(1.0, 1.0), Point::new(2.0, 0.0)];
        let curve = through(&points).unwrap();
        assert_eq!(curve.len(), 2 * PIECES + 1);
        for (i, p) in points.iter().enumerate() {
            assert!(curve[i * PIECES].distance(*p) < 1e-12);
        }
        let t = 0.25;
        assert!((curve[PIECES / 4].y - (t + (t - t * t * t) / 2.0)).abs() < 1e-12, "{:?}", curve[PIECES / 4]);
        assert!((curve[PIECES / 4].x - t).abs() < 1e-12);
        assert_eq!(through(&points[..2]).unwrap(), points[..2]);
        assert_eq!(through(&points[..1]), None);
        assert_eq!(through(&[points[0]; 5]), None, "all in one place");
    }

    #[test]
    fn figures_that_make_no_spline_are_said() {
        let control = [Point::new(0.0, 0.0), Point::new(1.0, 1.0), Point::new(2.0, 0.0)];
        assert!(flatten(0, &[], &control, &[]).is_none());
        assert!(flatten(3, &[0.0; 7], &control, &[]).is_none(), "fewer points than the degree wants");
        assert!(flatten(2, &[0.0, 0.0, 0.0, 1.0, 1.0], &control, &[]).is_none(), "a knot is missing");
        assert!(flatten(2, &[0.0, 0.0, 1.0, 0.5, 1.0, 1.0], &control, &[]).is_none(), "knots that fall");
        assert!(flatten(2, &[0.0, 0.0, 0.0, f64::NAN, 1.0, 1.0], &control, &[]).is_none());
        assert!(flatten(2, &[0.0; 6], &control, &[]).is_none(), "no span at all");
    }

    proptest! {
        #[test]
        fn a_spline_stays_within_the_box_of_its_points(ys in prop::collection::vec(-50.0..50.0f64, 4..12)) {
            let control: Vec<Point> = ys.iter().enumerate().map(|(i, y)| Point::new(i as f64, *y)).collect();
            let n = control.len();
            let knots: Vec<f64> = (0..n + 4).map(|i| (i as f64 - 3.0).clamp(0.0, (n - 3) as f64)).collect();
            let points = flatten(3, &knots, &control, &[]).unwrap();
            let (low, high) = ys.iter().fold((f64::MAX, f64::MIN), |(a, b), y| (a.min(*y), b.max(*y)));
            prop_assert!(points.iter().all(|p| p.y >= low - 1e-9 && p.y <= high + 1e-9 && p.x >= -1e-9 && p.x <= n as f64 - 1.0 + 1e-9));
            prop_assert!(points[0].distance(control[0]) < 1e-9 && points[points.len() - 1].distance(control[n - 1]) < 1e-9);
        }
    }
}

use crate::site::Point;

/// Length of the shortest straight connection of all points without meeting points, m (Prim 1957).
pub fn spanning_length(points: &[Point]) -> f64 {
    let Some((first, rest)) = points.split_first() else {
        return 0.0;
    };
    let mut open: Vec<(f64, Point)> = rest.iter().map(|p| (p.distance(*first), *p)).collect();
    let mut sum = 0.0;
    while let Some(next) = (0..open.len()).min_by(|a, b| open[*a].0.total_cmp(&open[*b].0)) {
        let (d, at) = open.swap_remove(next);
        sum += d;
        for (near, p) in &mut open {
            *near = near.min(p.distance(at));
        }
    }
    sum
}

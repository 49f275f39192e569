//! Loose lines joined end to end: what is drawn as four lines is one outline.

use fenlo_core::site::{Outline, Path, Point, Shape, Vertex};
use std::collections::HashMap;

/// Places that ends lie at: ends nearer than a distance have one.
struct Places {
    near: f64,
    cells: HashMap<(i64, i64), Vec<usize>>,
    points: Vec<Point>,
}

impl Places {
    /// The place of a point: the nearest that is there within the distance, else a new one.
    fn of(&mut self, p: Point) -> usize {
        let cell = |v: f64| (v / self.near).floor() as i64;
        let (x, y) = (cell(p.x), cell(p.y));
        let mut best: Option<(f64, usize)> = None;
        for (i, k) in (-1..=1).flat_map(|i| (-1..=1).map(move |k| (i, k))) {
            for &place in self.cells.get(&(x + i, y + k)).into_iter().flatten() {
                let d = self.points[place].distance(p);
                if d <= self.near && best.is_none_or(|b| d < b.0) {
                    best = Some((d, place));
                }
            }
        }
        best.map_or_else(
            || {
                self.points.push(p);
                self.cells.entry((x, y)).or_default().push(self.points.len() - 1);
                self.points.len() - 1
            },
            |b| b.1,
        )
    }
}

/// Joins paths whose ends meet where just two ends do; rings that close become shapes. Ends nearer
/// than `near` are one.
pub(super) fn chain(paths: Vec<Path>, near: f64) -> (Vec<Shape>, Vec<Path>) {
    let mut places = Places { near: near.max(1e-9), cells: HashMap::new(), points: Vec::new() };
    // What is shorter than the distance has both ends in one place: it joins what it lies between.
    let ends: Vec<Option<(usize, usize)>> =
        paths.iter().map(|p| Some((places.of(p.0.first()?.at), places.of(p.0.last()?.at)))).collect();
    let mut at: Vec<Vec<usize>> = vec![Vec::new(); places.points.len()];
    for (i, ends) in ends.iter().enumerate() {
        if let Some((a, b)) = ends {
            at[*a].push(i);
            at[*b].push(i);
        }
    }
    let mut used = vec![false; paths.len()];
    let (mut closed, mut open) = (Vec::new(), Vec::new());
    for start in 0..paths.len() {
        if std::mem::replace(&mut used[start], true) {
            continue;
        }
        let Some((first, last)) = ends[start] else {
            open.push(paths[start].clone());
            continue;
        };
        let mut line = paths[start].0.clone();
        let (mut from, mut to) = (first, last);
        // Forward from the end, then, turned round, forward from what was the beginning.
        for _ in 0..2 {
            loop {
                let here = &at[to];
                let next = (here.len() == 2).then(|| here.iter().find(|i| !used[**i])).flatten();
                let Some(&next) = next else { break };
                used[next] = true;
                let (a, b) = ends[next].unwrap_or((to, to));
                let more = if a == to {
                    to = b;
                    paths[next].0.clone()
                } else {
                    to = a;
                    turned(&paths[next].0)
                };
                if let (Some(last), Some(first)) = (line.last_mut(), more.first()) {
                    last.bulge = first.bulge;
                }
                line.extend(more.into_iter().skip(1));
            }
            line = turned(&line);
            (from, to) = (to, from);
        }
        let closes = line.len() > 2 && from == to;
        if closes {
            line.pop();
            closed.push(Shape::plain(Outline(line)));
        } else {
            open.push(Path(line));
        }
    }
    (closed, open)
}

fn turned(line: &[Vertex]) -> Vec<Vertex> {
    let n = line.len();
    (0..n)
        .rev()
        .map(|i| Vertex { at: line[i].at, bulge: if i == 0 { 0.0 } else { -line[i - 1].bulge } })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn line(a: (f64, f64), b: (f64, f64)) -> Path {
        Path(vec![Vertex::new(a.0, a.1), Vertex::new(b.0, b.1)])
    }

    #[test]
    fn loose_ends_stay_open_and_a_junction_joins_nothing() {
        let (closed, open) = chain(vec![line((0.0, 0.0), (1.0, 0.0)), line((2.0, 0.0), (1.0, 0.0))], 1e-6);
        assert_eq!((closed.len(), open.len(), open[0].0.len()), (0, 1, 3));
        // Three ends in one place: nobody knows which belong together.
        let (closed, open) = chain(
            vec![line((0.0, 0.0), (1.0, 0.0)), line((1.0, 0.0), (2.0, 1.0)), line((1.0, 0.0), (2.0, -1.0))],
            1e-6,
        );
        assert_eq!((closed.len(), open.len()), (0, 3));
        // Nearly meeting is not meeting.
        let (_, open) = chain(vec![line((0.0, 0.0), (1.0, 0.0)), line((1.01, 0.0), (2.0, 0.0))], 1e-3);
        assert_eq!(open.len(), 2);
        assert_eq!(chain(Vec::new(), 1e-3), (Vec::new(), Vec::new()));
    }

    #[test]
    fn arcs_keep_their_bend_whichever_way_they_are_met() {
        let arc = Path(vec![Vertex { at: Point::new(1.0, 0.0), bulge: 1.0 }, Vertex::new(-1.0, 0.0)]);
        let area = |pieces: Vec<Path>| chain(pieces, 1e-6).0[0].area_m2();
        let half = std::f64::consts::FRAC_PI_2;
        assert!((area(vec![arc.clone(), line((-1.0, 0.0), (1.0, 0.0))]) - half).abs() < 1e-12);
        assert!((area(vec![line((-1.0, 0.0), (1.0, 0.0)), arc.clone()]) - half).abs() < 1e-12);
        assert!((area(vec![line((1.0, 0.0), (-1.0, 0.0)), arc]) - half).abs() < 1e-12, "turned round");
    }

    proptest! {
        #[test]
        fn a_ring_in_pieces_is_the_same_ring(n in 3..20usize, order in any::<u64>(), turn in any::<u32>()) {
            let corner = |i: usize| { let p = Point::default().toward(360.0 * (i % n) as f64 / n as f64, 10.0); (p.x, p.y) };
            let piece = |i: usize| {
                let (from, to) = (corner(i), corner(i + 1));
                if turn >> (i % 32) & 1 == 0 { line(from, to) } else { line(to, from) }
            };
            let mut pieces: Vec<Path> = (0..n).map(piece).collect();
            let mut seed = order;
            for i in (1..n).rev() {
                seed = seed.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1);
                pieces.swap(i, (seed >> 33) as usize % (i + 1));
            }
            let whole = n as f64 / 2.0 * 100.0 * (std::f64::consts::TAU / n as f64).sin();
            let (closed, open) = chain(pieces, 1e-6);
            prop_assert_eq!((closed.len(), open.len()), (1, 0));
            prop_assert!((closed[0].area_m2() - whole).abs() < 1e-9 * whole);
        }
    }
}

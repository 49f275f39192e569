//! Loose lines joined end to end: what is drawn as four lines is one outline.

use fenlo_core::site::{Outline, Path, Point, Shape, Vertex};
use std::collections::HashMap;

type Key = (i64, i64);

/// Joins paths whose ends meet where just two ends do; rings that close become shapes. Ends nearer
/// than `near` are one.
pub(super) fn chain(paths: Vec<Path>, near: f64) -> (Vec<Shape>, Vec<Path>) {
    let key = |p: Point| -> Key { ((p.x / near).round() as i64, (p.y / near).round() as i64) };
    let ends = |p: &Path| Some((key(p.0.first()?.at), key(p.0.last()?.at)));
    let mut at: HashMap<Key, Vec<usize>> = HashMap::new();
    for (i, path) in paths.iter().enumerate() {
        if let Some((a, b)) = ends(path) {
            at.entry(a).or_default().push(i);
            at.entry(b).or_default().push(i);
        }
    }
    let mut used = vec![false; paths.len()];
    let (mut closed, mut open) = (Vec::new(), Vec::new());
    for start in 0..paths.len() {
        if std::mem::replace(&mut used[start], true) {
            continue;
        }
        let mut line = paths[start].0.clone();
        // Forward from the end, then, turned round, forward from what was the beginning.
        for _ in 0..2 {
            while let Some(end) = line.last().map(|v| key(v.at)) {
                let here = &at[&end];
                let next = (here.len() == 2).then(|| here.iter().find(|i| !used[**i])).flatten();
                let Some(&next) = next else { break };
                used[next] = true;
                let more = if ends(&paths[next]).is_some_and(|(a, _)| a == end) { paths[next].0.clone() } else { turned(&paths[next].0) };
                if let (Some(last), Some(first)) = (line.last_mut(), more.first()) {
                    last.bulge = first.bulge;
                }
                line.extend(more.into_iter().skip(1));
            }
            line = turned(&line);
        }
        let closes = line.len() > 2 && line.first().zip(line.last()).is_some_and(|(a, b)| key(a.at) == key(b.at));
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
    (0..n).rev().map(|i| Vertex { at: line[i].at, bulge: if i == 0 { 0.0 } else { -line[i - 1].bulge } }).collect()
}

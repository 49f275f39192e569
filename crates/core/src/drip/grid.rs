//! Rows made one grid: joined by headers at their ends, or one line snaked and led back.

use super::ground::RowGround;
use super::laid::{Laid, LaidEmitter, LaidRow, Part, Stuff};
use super::rows::Span;
use crate::plan::RowEnds;
use crate::site::Point;
use crate::units::{Flow, Length, Pressure};

/// Ends of two rows, or a place along one, that a header piece joins.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Join {
    a: (usize, f64),
    b: (usize, f64),
    part: Part,
}

/// Joins rows into a grid that is fed from `inlet` (in the ground's frame).
pub(super) fn grid(
    ground: &RowGround,
    spans: &[Span],
    ends: RowEnds,
    inlet: Point,
    stuff: &Stuff,
    emitter: Flow,
) -> Laid {
    let (feed, joins) = match ends {
        RowEnds::Snake => snake(spans, inlet),
        RowEnds::Headers | RowEnds::Closed => {
            let feed = nearest_end(spans, inlet);
            let mut joins = headers(ground, spans);
            if ends == RowEnds::Closed {
                joins = one_side(spans, joins, feed);
            }
            links(spans, &mut joins);
            (feed, joins)
        }
    };
    let mut work =
        Work { ground, laid: Laid::at(ground.back(inlet), stuff), along: Vec::with_capacity(spans.len()) };
    work.rows(spans, &joins, emitter);
    let start = work.node(feed.0, feed.1);
    work.laid.tube(0, start, Part::Feed);
    for join in &joins {
        let (a, b) = (work.node(join.a.0, join.a.1), work.node(join.b.0, join.b.1));
        work.laid.tube(a, b, join.part);
    }
    work.finish(spans, ends, feed)
}

/// The row end that is nearest to a point: row, and `x` along it.
fn nearest_end(spans: &[Span], p: Point) -> (usize, f64) {
    let ends = spans.iter().enumerate().flat_map(|(i, s)| s.ends().map(|e| (i, e)));
    ends.min_by(|a, b| a.1.distance(p).total_cmp(&b.1.distance(p))).map_or((0, 0.0), |(i, e)| (i, e.x))
}

/// Header pieces between rows of neighbouring lines: end to end along the edge of the ground and round
/// what lies in it, or from an end straight to the next row where that runs on beyond it.
fn headers(ground: &RowGround, spans: &[Span]) -> Vec<Join> {
    let mut joins = Vec::new();
    let mut below = 0;
    for (i, a) in spans.iter().enumerate() {
        while below < spans.len() && spans[below].line() < a.next_line() {
            below += 1;
        }
        let next = (below..spans.len()).take_while(|j| spans[*j].line() == a.next_line());
        let children: Vec<usize> = next.filter(|j| spans[*j].overlaps(a)).collect();
        for (place, &j) in children.iter().enumerate() {
            let b = &spans[j];
            // Rows of `a`'s line that lie over `b` as well.
            let other = |k: Option<usize>| {
                k.and_then(|k| spans.get(k)).is_some_and(|o| o.line() == a.line() && o.overlaps(b))
            };
            let outer =
                [(place == 0, !other(i.checked_sub(1))), (place + 1 == children.len(), !other(Some(i + 1)))];
            for (side, (b_outer, a_outer)) in outer.into_iter().enumerate() {
                let (pa, pb) = (a.ends()[side], b.ends()[side]);
                let (xa, xb) = match (a_outer, b_outer) {
                    (true, true) if ground.pieces[a.piece].clear(pa, pb) => (pa.x, pb.x),
                    // One runs on beyond the other: straight across from the shorter one's end.
                    (true, true) if side == 0 => (pa.x.max(pb.x), pa.x.max(pb.x)),
                    (true, true) => (pa.x.min(pb.x), pa.x.min(pb.x)),
                    (true, false) => (pb.x, pb.x),
                    (false, true) => (pa.x, pa.x),
                    (false, false) => continue,
                };
                if a.holds(xa) && b.holds(xb) {
                    joins.push(Join { a: (i, xa), b: (j, xb), part: Part::Header });
                }
            }
        }
    }
    joins
}

/// Only the header on the side of the feed, and what else it takes to reach every row.
fn one_side(spans: &[Span], joins: Vec<Join>, feed: (usize, f64)) -> Vec<Join> {
    let left = (feed.1 - spans[feed.0].from).abs() <= (feed.1 - spans[feed.0].to).abs();
    let on_side = |(row, x): (usize, f64)| {
        let s = &spans[row];
        ((x - s.from).abs() <= (x - s.to).abs()) == left
    };
    let (mut kept, rest): (Vec<Join>, Vec<Join>) =
        joins.into_iter().partition(|j| on_side(j.a) && on_side(j.b));
    let mut set = Sets::new(spans.len());
    kept.iter().for_each(|j| set.join(j.a.0, j.b.0));
    for join in rest {
        if set.of(join.a.0) != set.of(join.b.0) {
            set.join(join.a.0, join.b.0);
            kept.push(join);
        }
    }
    kept
}

/// Joins what headers leave apart by the shortest ways between row ends (Kruskal 1956).
fn links(spans: &[Span], joins: &mut Vec<Join>) {
    let mut sets = Sets::new(spans.len());
    joins.iter().for_each(|j| sets.join(j.a.0, j.b.0));
    let first = sets.of(0);
    if (0..spans.len()).all(|i| sets.of(i) == first) {
        return;
    }
    let mut ways: Vec<(f64, Join)> = Vec::new();
    for i in 0..spans.len() {
        for j in i + 1..spans.len() {
            if sets.of(i) == sets.of(j) {
                continue;
            }
            for a in spans[i].ends() {
                for b in spans[j].ends() {
                    let join = Join { a: (i, a.x), b: (j, b.x), part: Part::Link };
                    ways.push((a.distance(b), join));
                }
            }
        }
    }
    ways.sort_by(|a, b| a.0.total_cmp(&b.0));
    for (_, join) in ways {
        if sets.of(join.a.0) != sets.of(join.b.0) {
            sets.join(join.a.0, join.b.0);
            joins.push(join);
        }
    }
}

/// One line back and forth, begun at the corner nearest to the inlet and led back to it.
fn snake(spans: &[Span], inlet: Point) -> ((usize, f64), Vec<Join>) {
    let last = spans.len() - 1;
    let corner = |row: usize, right: bool| spans[row].ends()[usize::from(right)];
    let starts = [(0, false), (0, true), (last, false), (last, true)];
    let start = starts
        .into_iter()
        .min_by(|a, b| corner(a.0, a.1).distance(inlet).total_cmp(&corner(b.0, b.1).distance(inlet)))
        .unwrap_or((0, false));
    let order: Vec<usize> = if start.0 == 0 { (0..=last).collect() } else { (0..=last).rev().collect() };
    let mut joins = Vec::new();
    let mut right = start.1;
    for pair in order.windows(2) {
        // Along the row to its other end, and over.
        right = !right;
        joins.push(Join {
            a: (pair[0], corner(pair[0], right).x),
            b: (pair[1], corner(pair[1], right).x),
            part: Part::Turn,
        });
    }
    let end = order[last];
    let feed = (order[0], corner(order[0], start.1).x);
    joins.push(Join { a: (end, corner(end, !right).x), b: feed, part: Part::Return });
    (feed, joins)
}

/// Disjoint sets (Galler and Fischer 1964).
struct Sets(Vec<usize>);

impl Sets {
    fn new(n: usize) -> Self {
        Self((0..n).collect())
    }
    fn of(&mut self, mut i: usize) -> usize {
        while self.0[i] != i {
            self.0[i] = self.0[self.0[i]];
            i = self.0[i];
        }
        i
    }
    fn join(&mut self, a: usize, b: usize) {
        let (a, b) = (self.of(a), self.of(b));
        self.0[a.max(b)] = a.min(b);
    }
}

/// A grid in the making.
struct Work<'a> {
    ground: &'a RowGround,
    laid: Laid,
    /// Of every row its joints by their place along it.
    along: Vec<Vec<(f64, usize)>>,
}

impl Work<'_> {
    /// Joints and tubes of the rows.
    fn rows(&mut self, spans: &[Span], joins: &[Join], emitter: Flow) {
        let mut tees: Vec<Vec<f64>> = vec![Vec::new(); spans.len()];
        for (row, x) in joins.iter().flat_map(|j| [j.a, j.b]) {
            tees[row].push(x);
        }
        for (row, span) in spans.iter().enumerate() {
            let emitters = span.emitters.iter().map(|x| (*x, true));
            let ends = [span.from, span.to].into_iter().chain(tees[row].iter().copied());
            let mut places: Vec<(f64, bool)> = emitters.chain(ends.map(|x| (x, false))).collect();
            places.sort_by(|a, b| a.0.total_cmp(&b.0));
            let mut along: Vec<(f64, usize)> = Vec::with_capacity(places.len());
            for (x, emits) in places {
                let same = along.last().filter(|l| (x - l.0).abs() < 1e-6).map(|l| l.1);
                let joint = same.unwrap_or_else(|| self.laid.joint(self.ground.back(Point::new(x, span.y))));
                if same.is_none() {
                    if let Some(&(_, before)) = along.last() {
                        self.laid.tube(before, joint, Part::Row(row));
                    }
                    along.push((x, joint));
                }
                if emits {
                    let at = self.laid.joints[joint].at;
                    let flow = emitter;
                    let open = false;
                    self.laid.emitters.push(LaidEmitter { joint, at, flow, open, behind: Pressure::ZERO });
                }
            }
            self.laid.rows.push(LaidRow {
                from: self.ground.back(span.ends()[0]),
                to: self.ground.back(span.ends()[1]),
                first: Length::from_m(span.emitters[0] - span.from),
                emitters: span.emitters.len() as u32,
                line: span.line,
                joints: (along.first().map_or(0, |a| a.1), along.last().map_or(0, |a| a.1)),
            });
            self.along.push(along);
        }
    }

    /// The joint at a place along a row.
    fn node(&self, row: usize, x: f64) -> usize {
        let along = &self.along[row];
        let near = along.iter().min_by(|a, b| (a.0 - x).abs().total_cmp(&(b.0 - x).abs()));
        near.map_or(0, |n| n.1)
    }

    /// Notes the ends across from the feed, at which it is flushed: of every line the outermost.
    fn finish(mut self, spans: &[Span], ends: RowEnds, feed: (usize, f64)) -> Laid {
        if ends == RowEnds::Snake {
            let back = self.laid.tubes.iter().find(|t| t.part == Part::Return);
            self.laid.flushed = back.map(|t| t.from).into_iter().collect();
            return self.laid;
        }
        let feed_left = (feed.1 - spans[feed.0].from).abs() <= (feed.1 - spans[feed.0].to).abs();
        for (row, span) in spans.iter().enumerate() {
            let beside = if feed_left { Some(row + 1) } else { row.checked_sub(1) };
            let beside = beside.and_then(|r| spans.get(r));
            let outermost = beside.is_none_or(|b| b.line() != span.line());
            let along = &self.along[row];
            let end = if feed_left { along.last() } else { along.first() };
            if let Some(&(_, joint)) = end.filter(|_| outermost) {
                self.laid.flushed.push(joint);
            }
        }
        self.laid
    }
}

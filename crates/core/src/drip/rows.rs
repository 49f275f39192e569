use super::ground::{Piece, RowGround};
use crate::site::Point;
use crate::units::Length;

/// Emitters keep so far off a cut: the fitting takes it, m.
const OFF_CUT: f64 = 0.025;
/// Ground this wide between the rows' limits takes one row in its middle, m.
const ONE_ROW: f64 = 0.075;

/// A row cut to the ground, in the turned frame.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Span {
    /// Its piece of ground.
    pub piece: usize,
    /// Of the lots that the piece is cut into across its rows, from left to right.
    pub column: usize,
    /// Rows across the piece before it.
    pub line: usize,
    pub y: f64,
    pub from: f64,
    pub to: f64,
    /// Where its emitters sit, from left to right.
    pub emitters: Vec<f64>,
}

/// Rows over the ground, evened out, from the lowest up and from left to right; those of every other line
/// are staggered by half. Gives them with the widest spacing that came of it, m.
///
/// # Source
/// Rows in a width w: n = ceil((w - 2 edge) / spacing) + 1, as practised.
pub(super) fn spans(ground: &RowGround, apart: Length, emitters_apart: Length) -> (Vec<Span>, f64) {
    let mut all = Vec::new();
    let mut widest: f64 = 0.0;
    for (piece, of) in ground.pieces.iter().enumerate() {
        let between = of.high - of.low;
        let gaps = if between <= ONE_ROW { 0 } else { (between / apart.m() - 1e-6).ceil().max(1.0) as usize };
        let step = between / gaps.max(1) as f64;
        widest = widest.max(if gaps == 0 { 0.0 } else { step });
        let lines: Vec<f64> = match gaps {
            0 => vec![of.low + between / 2.0],
            n => (0..=n).map(|i| of.low + step * i as f64).collect(),
        };
        let anchor = left_edge(of, &lines);
        for (line, y) in lines.into_iter().enumerate() {
            for (from, to) in of.spans(y) {
                let emitters = emitters(anchor, line, from, to, emitters_apart.m());
                if !emitters.is_empty() {
                    all.push(Span { piece, column: 0, line, y, from, to, emitters });
                }
            }
        }
    }
    (all, widest)
}

/// From where emitters are counted: where most rows of a piece begin, so that their cuts lie midway.
fn left_edge(piece: &Piece, lines: &[f64]) -> f64 {
    let mut starts: Vec<f64> = lines.iter().filter_map(|y| piece.spans(*y).first().map(|s| s.0)).collect();
    starts.sort_by(f64::total_cmp);
    starts.get(starts.len() / 2).copied().unwrap_or_default()
}

/// Even rows begin half a spacing before their first emitter, odd ones a whole.
fn emitters(anchor: f64, line: usize, from: f64, to: f64, apart: f64) -> Vec<f64> {
    let off = OFF_CUT.min(apart / 4.0);
    let phase = anchor + if line.is_multiple_of(2) { apart / 2.0 } else { 0.0 };
    let (low, high) = (from + off, to - off);
    let first = ((low - phase) / apart - 1e-9).ceil();
    let last = ((high - phase) / apart + 1e-9).floor();
    if last >= first {
        let count = (last - first) as usize + 1;
        return (0..count).map(|i| phase + apart * (first + i as f64)).collect();
    }
    // A short piece of tube is cut about one emitter.
    if to - from >= apart / 2.0 { vec![(from + to) / 2.0] } else { Vec::new() }
}

/// How many lots a piece is cut into so that no row is longer.
pub(super) fn columns(spans: &[Span], longest: Length) -> Vec<usize> {
    let pieces = spans.iter().map(|s| s.piece + 1).max().unwrap_or(0);
    let of = |piece: usize| {
        let (from, to) = reach(spans, piece);
        ((to - from) / longest.m() - 1e-6).ceil().max(1.0) as usize
    };
    (0..pieces).map(of).collect()
}

/// From the leftmost to the rightmost end of a piece's rows.
fn reach(spans: &[Span], piece: usize) -> (f64, f64) {
    let mine = spans.iter().filter(|s| s.piece == piece);
    mine.fold((f64::MAX, f64::MIN), |(a, b), s| (a.min(s.from), b.max(s.to)))
}

/// Cuts the rows of every piece into so many lots of even width, each row midway between two emitters, never beside
/// one: lot by lot, the lines of a lot from the lowest up.
pub(super) fn cut(spans: &[Span], columns: &[usize]) -> Vec<Span> {
    let mut all: Vec<Span> = Vec::new();
    for span in spans {
        let (from, to) = reach(spans, span.piece);
        let many = columns.get(span.piece).copied().unwrap_or(1);
        let wide = (to - from) / many as f64;
        let column = |x: f64| (((x - from) / wide) as usize).min(many - 1);
        let mut rest = span.emitters.as_slice();
        let mut left = span.from;
        while let Some(first) = rest.first() {
            let here = column(*first);
            let n = rest.iter().take_while(|x| column(**x) == here).count();
            let right = rest.get(n).map_or(span.to, |next| (rest[n - 1] + next) / 2.0);
            let apart = rest.get(n).map_or(0.0, |next| next - rest[n - 1]);
            let gap = OFF_CUT.min(apart / 4.0);
            all.push(Span {
                column: here,
                from: left,
                to: right - gap,
                emitters: rest[..n].to_vec(),
                ..span.clone()
            });
            left = right + gap;
            rest = &rest[n..];
        }
    }
    all.sort_by_key(Span::line);
    all
}

/// Parts the rows of cut ground into as many lots as it has inlets: every column gets one, and what is over goes to
/// where one inlet has most emitters to feed. None where there are fewer inlets than columns.
pub(super) fn lots_by_column(spans: &[Span], inlets: usize) -> Option<Vec<usize>> {
    let mut columns: Vec<((usize, usize), usize)> = Vec::new();
    for s in spans {
        match columns.last_mut().filter(|c| c.0 == (s.piece, s.column)) {
            Some(column) => column.1 += s.emitters.len(),
            None => columns.push(((s.piece, s.column), s.emitters.len())),
        }
    }
    let mut shares = vec![1; columns.len()];
    for _ in columns.len()..inlets {
        let each = |i: &usize| columns[*i].1 as f64 / shares[*i] as f64;
        let most = (0..columns.len()).rev().max_by(|a, b| each(a).total_cmp(&each(b)))?;
        shares[most] += 1;
    }
    let fits = shares.iter().sum::<usize>() == inlets;
    fits.then(|| {
        let (mut out, mut first) = (Vec::with_capacity(spans.len()), 0);
        for (column, share) in columns.iter().zip(shares) {
            let mine = |s: &&Span| (s.piece, s.column) == column.0;
            let mine: Vec<Span> = spans.iter().filter(mine).cloned().collect();
            out.extend(lots(&mine, share).into_iter().map(|lot| first + lot));
            first += share;
        }
        out
    })
}

/// Parts rows into so many neighbouring lots with as nearly the same number of emitters as whole lines
/// allow. Gives the lot of every row.
pub(super) fn lots(spans: &[Span], parts: usize) -> Vec<usize> {
    let all: usize = spans.iter().map(|s| s.emitters.len()).sum();
    let mut lots = Vec::with_capacity(spans.len());
    let mut before = 0;
    let mut at = 0;
    while at < spans.len() {
        // Rows of one line stay together.
        let same = |s: &&Span| s.line() == spans[at].line();
        let line: Vec<&Span> = spans[at..].iter().take_while(same).collect();
        let here: usize = line.iter().map(|s| s.emitters.len()).sum();
        let middle = before as f64 + here as f64 / 2.0;
        let lot = (middle / all.max(1) as f64 * parts as f64) as usize;
        lots.extend(line.iter().map(|_| lot.min(parts - 1)));
        before += here;
        at += line.len();
    }
    lots
}

impl Span {
    /// Its piece, the lot within it and the line within that: rows come in this order.
    pub fn line(&self) -> (usize, usize, usize) {
        (self.piece, self.column, self.line)
    }
    /// The line over its own.
    pub fn next_line(&self) -> (usize, usize, usize) {
        (self.piece, self.column, self.line + 1)
    }
    /// Its left and right end.
    pub fn ends(&self) -> [Point; 2] {
        [Point::new(self.from, self.y), Point::new(self.to, self.y)]
    }
    /// Both lie over one another for some way.
    pub fn overlaps(&self, other: &Self) -> bool {
        self.to.min(other.to) - self.from.max(other.from) > 1e-6
    }
    /// A place along it, not beyond its ends.
    pub fn holds(&self, x: f64) -> bool {
        self.from <= x && x <= self.to
    }
}

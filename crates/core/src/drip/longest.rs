use crate::network::{Emission, hazen_williams};
use crate::units::{Flow, Length, Pressure};

/// Emitters of a row are tried up to so many.
const MOST: usize = 20_000;

/// A row whose greatest length is asked for.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct RowAsk {
    /// Where the row begins.
    pub inlet: Pressure,
    /// What one emitter gives.
    pub emission: Emission,
    /// Between emitters; the first is one spacing from the beginning.
    pub spacing: Length,
    /// Inside diameter of the tube.
    pub inside: Length,
    /// Hazen-Williams C of the tube.
    pub c: f64,
    /// Height climbed over length: 0.03 rises three metres in a hundred.
    pub slope: f64,
    /// Least pressure at any emitter.
    pub least: Pressure,
    /// Greatest pressure at any emitter: what it and its tube are made for.
    pub most: Pressure,
}

/// What ends a row.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum RowEnd {
    /// One emitter more, and one of them would have less than its least pressure.
    Least,
    /// One emitter more, and one of them would have more than the tube is made for: downhill.
    Most,
    /// Not one emitter works: the inlet itself is under the least pressure.
    Nothing,
    /// Longer than anybody lays: 20,000 emitters.
    Longer,
}

/// The longest row.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LongestRow {
    /// Emitters on it.
    pub emitters: usize,
    /// From its beginning to the last emitter.
    pub length: Length,
    /// What it takes.
    pub flow: Flow,
    /// At the last emitter.
    pub last: Pressure,
    /// At the emitter that has least.
    pub lowest: Pressure,
    /// What ends it.
    pub end: RowEnd,
}

/// The longest row that keeps every emitter at its least pressure or above. The friction of every piece of
/// tube is that of the emitters behind it (Hazen-Williams); height is added piece by piece, so downhill the
/// lowest emitter may stand midway. Compensating emitters are taken at their flow, others at their pressure.
///
/// # Example
/// 25 psi, 0.6 gph every 12 in, 0.560 in bore, C 140, least 8.5 psi, level: 415 emitters, 415 ft, 4.15 gpm (a
/// test holds it, and another the same row against the network solver).
pub fn longest_row(ask: &RowAsk) -> LongestRow {
    let mut best = LongestRow {
        emitters: 0,
        length: Length::ZERO,
        flow: Flow::ZERO,
        last: ask.inlet,
        lowest: ask.inlet,
        end: RowEnd::Nothing,
    };
    // Rows grow by doubling until one fails; then the longest that holds is found between.
    let holds = |n: usize| run(ask, n).ok();
    let mut good = 0;
    let mut step = 1;
    while good + step <= MOST {
        match holds(good + step) {
            Some(row) => {
                best = row;
                good += step;
                step *= 2;
            }
            None if step == 1 => break,
            None => step = 1.max(step / 2),
        }
        if good >= MOST {
            return LongestRow { end: RowEnd::Longer, ..best };
        }
    }
    // Down a slope rows may fail and hold again: what is asked for is the first that fails.
    let end = run(ask, good + 1).err().unwrap_or(RowEnd::Longer);
    let end = if good == 0 && end == RowEnd::Least { RowEnd::Nothing } else { end };
    LongestRow { end, ..best }
}

/// Pressures along a row of so many emitters, from its beginning.
fn run(ask: &RowAsk, n: usize) -> Result<LongestRow, RowEnd> {
    let climb = Pressure::of_height(ask.spacing * ask.slope);
    match ask.emission {
        Emission::Compensating { flow, .. } => {
            let mut at = ask.inlet;
            let mut lowest = ask.inlet;
            let flows = (1..=n).rev().map(|behind| flow * behind as f64);
            for q in flows {
                at = at - loss(ask, q) - climb;
                lowest = lowest.min(at);
                check(ask, at)?;
            }
            Ok(row(ask, n, flow * n as f64, at, lowest))
        }
        Emission::Orifice { .. } => {
            // From the last emitter back: its pressure is found so that the beginning has the inlet's.
            let march = |last: Pressure| {
                let (mut at, mut q) = (last, Flow::ZERO);
                let (mut lowest, mut highest) = (last, last);
                for _ in 0..n {
                    lowest = lowest.min(at);
                    highest = highest.max(at);
                    q = q + ask.emission.flow_at(at);
                    at = at + loss(ask, q) + climb;
                }
                (at, q, lowest, highest)
            };
            let (mut low, mut high) = (Pressure::ZERO, ask.inlet * 2.0 + ask.most);
            for _ in 0..60 {
                let middle = (low + high) * 0.5;
                if march(middle).0 > ask.inlet {
                    high = middle;
                } else {
                    low = middle;
                }
            }
            let (_, q, lowest, highest) = march(low);
            check(ask, lowest)?;
            check(ask, highest)?;
            Ok(row(ask, n, q, low, lowest))
        }
    }
}

fn check(ask: &RowAsk, at: Pressure) -> Result<(), RowEnd> {
    let hair = Pressure::from_kpa(1e-9);
    if at + hair < ask.least {
        Err(RowEnd::Least)
    } else if at > ask.most + hair && at > ask.inlet {
        Err(RowEnd::Most)
    } else {
        Ok(())
    }
}

fn row(ask: &RowAsk, n: usize, flow: Flow, last: Pressure, lowest: Pressure) -> LongestRow {
    LongestRow { emitters: n, length: ask.spacing * n as f64, flow, last, lowest, end: RowEnd::Least }
}

/// Of one spacing of tube.
fn loss(ask: &RowAsk, q: Flow) -> Pressure {
    hazen_williams(q, ask.spacing, ask.inside, ask.c)
}

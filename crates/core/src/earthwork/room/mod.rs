//! What a valve box takes: valves beside each other on a manifold, and filters with room to unscrew them.
//!
//! # Source
//! As practised: round 6 in for one valve, 10 in for one with filter, 14 x 19 in for two or three valves, 20
//! x 26 in for four or five, or for a drip kit beside others. A filter wants its own length free to be drawn
//! out, which is a valve's place again (a planning figure: measure the filter that is bought).

#[cfg(test)]
mod tests;

use crate::plan::{AssemblyPlace, PartIs, Valve};

/// Parts that are a run of pipe to a bed.
const RUNS: [&str; 2] = ["run", "run-1in"];
/// Places of the largest box.
pub const MOST_PLACES: usize = 5;

/// Sizes of box, from the smallest up.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum BoxSize {
    /// Round, 6 in.
    Round6,
    /// Round, 10 in.
    Round10,
    /// 14 x 19 in.
    Standard,
    /// 20 x 26 in.
    Jumbo,
}

/// What stands in a box.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Contents {
    /// Valves.
    pub valves: usize,
    /// Filters that are opened in it.
    pub filters: usize,
}

impl Contents {
    /// Of these valves; those at a tap, on a riser or at a tank stand in no box.
    pub fn of<'a>(valves: impl IntoIterator<Item = &'a Valve>) -> Self {
        valves.into_iter().filter(|v| is_boxed(v)).fold(Self::default(), |sum, v| Self {
            valves: sum.valves + 1,
            filters: sum.filters + usize::from(filters_there(v)),
        })
    }

    /// Places that are wanted.
    pub fn places(self) -> usize {
        self.valves + self.filters
    }

    /// The smallest box that takes it; none: not even the largest does.
    pub fn size(self) -> Option<BoxSize> {
        match (self.valves, self.filters) {
            (0 | 1, 0) => Some(BoxSize::Round6),
            (0 | 1, 1) => Some(BoxSize::Round10),
            (2 | 3, 0) => Some(BoxSize::Standard),
            _ => (self.places() <= MOST_PLACES).then_some(BoxSize::Jumbo),
        }
    }
}

/// Whether a valve stands in a box.
pub fn is_boxed(valve: &Valve) -> bool {
    valve.assembly.stands == AssemblyPlace::Box
}

/// Whether a valve's filter is opened in its box: not where a run of pipe leads to it, at a bed far off.
fn filters_there(valve: &Valve) -> bool {
    let parts = valve.assembly.parts.iter().map(|p| &p.is);
    let away = parts
        .take_while(|is| **is != PartIs::Filter)
        .any(|is| matches!(is, PartIs::Part(id) if RUNS.contains(&id.as_str())));
    valve.filter.is_some() && !away
}

/// Valves in as many boxes as they need, in their order, with about the same number of places in each.
pub fn shared_out<'a>(valves: &[&'a Valve]) -> Vec<Vec<&'a Valve>> {
    let room = |some: &[&Valve]| Contents::of(some.iter().copied()).places();
    let boxes = filled(valves, MOST_PLACES, room);
    // As many boxes, none of them fuller than it has to be.
    let even = (1..MOST_PLACES).map(|most| filled(valves, most, room));
    even.into_iter().find(|b| b.len() == boxes.len()).unwrap_or(boxes)
}

fn filled<'a>(valves: &[&'a Valve], most: usize, room: impl Fn(&[&Valve]) -> usize) -> Vec<Vec<&'a Valve>> {
    let mut boxes: Vec<Vec<&Valve>> = Vec::new();
    for valve in valves {
        match boxes.last_mut() {
            Some(last) if room(last) + room(&[valve]) <= most => last.push(valve),
            _ => boxes.push(vec![valve]),
        }
    }
    boxes
}

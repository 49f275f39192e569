//! Laterals from a list: heads in a chain, fed in the middle, or in an H; drip rows on a header.

use super::bore::Bore;
use super::grow::{Builder, Step};
use super::inputs::GroupInput;
use crate::chain::pipe;
use crate::plan::{Arrangement, DripRow, HeadRef};
use crate::units::Length;

/// Emitters of a drip row that get a node of their own; longer rows are lumped to so many.
const MOST_ROW_NODES: u32 = 60;

/// One head still to be laid: (place in the group, arc).
type Waiting = (u32, u16);

/// Lays the part of a group that hangs on the valve.
pub(super) fn lay(b: &mut Builder<'_>, valve_outlet: usize, group: &GroupInput) {
    let heads = &group.heads;
    let n = heads.len();
    // Along the rows the ground climbs evenly to the last head.
    let climb = group.feed.rise / rows_of(group.arrangement, n).0.max(1) as f64;
    let first = b.leg(group.feed.bore, group.feed.length);
    let mut laying = Laying { b, group, climb };
    match group.arrangement {
        Arrangement::Chain => {
            let name = format!("{}-{}", group.id, heads[0].0 + 1);
            let node = laying.b.extend(valve_outlet, first, climb, Step::FirstLeg, name);
            laying.head(node, heads[0]);
            laying.arm(node, &heads[1..], 1.0, 1.0);
        }
        Arrangement::Middle => {
            let rise = climb * ((n + 1) as f64 / 2.0);
            let tee = laying.tee(valve_outlet, first, rise);
            laying.fed_in_middle(tee, heads);
        }
        Arrangement::H => {
            let (row, _) = rows_of(Arrangement::H, n);
            let rise = climb * ((row + 1) as f64 / 2.0);
            let tee = laying.tee(valve_outlet, first, rise);
            for (name, part) in [("a", &heads[..row]), ("b", &heads[row..])] {
                if !part.is_empty() {
                    let half = laying.b.leg(group.lateral, group.row_spacing / 2.0);
                    let name = format!("{}-row-{name}", group.id);
                    let side = laying.b.extend(tee, half, Length::ZERO, Step::Lateral, name);
                    laying.fed_in_middle(side, part);
                }
            }
        }
    }
}

/// Heads in the longest row, and rows.
fn rows_of(arrangement: Arrangement, n: usize) -> (usize, usize) {
    match arrangement {
        Arrangement::Chain | Arrangement::Middle => (n, 1),
        Arrangement::H => (n.div_ceil(2), 2),
    }
}

struct Laying<'l, 'a> {
    b: &'l mut Builder<'a>,
    group: &'l GroupInput,
    climb: Length,
}

impl Laying<'_, '_> {
    fn tee(&mut self, from: usize, leg: crate::network::LinkKind, rise: Length) -> usize {
        let name = format!("{}-tee", self.group.id);
        self.b.extend(from, leg, rise, Step::FirstLeg, name)
    }

    /// A row whose feed comes to its middle: on a head where the number is odd, else between two.
    fn fed_in_middle(&mut self, tee: usize, heads: &[Waiting]) {
        let n = heads.len();
        let half = n / 2;
        let back: Vec<Waiting> = heads[..half].iter().rev().copied().collect();
        if n % 2 == 1 {
            self.head(tee, heads[half]);
            self.arm(tee, &back, 1.0, -1.0);
            self.arm(tee, &heads[half + 1..], 1.0, 1.0);
        } else {
            self.arm(tee, &back, 0.5, -1.0);
            self.arm(tee, &heads[half..], 0.5, 1.0);
        }
    }

    /// Heads one after the other from a node; the first leg may be shorter.
    fn arm(&mut self, from: usize, heads: &[Waiting], first_share: f64, uphill: f64) {
        let mut at = from;
        for (i, &head) in heads.iter().enumerate() {
            let share = if i == 0 { first_share } else { 1.0 };
            let leg = self.b.leg(self.group.lateral, self.group.spacing * share);
            let name = format!("{}-{}", self.group.id, head.0 + 1);
            at = self.b.extend(at, leg, self.climb * (share * uphill), Step::Lateral, name);
            self.head(at, head);
        }
    }

    fn head(&mut self, node: usize, (index, arc): Waiting) {
        let name = format!("{}.{}", self.group.id, index + 1);
        let start = self.b.network.emitters.len();
        let watering = self.group.watering;
        match self.group.row {
            Some((row, tube)) => self.row(node, &name, arc, row, tube),
            None => {
                let nozzle = &self.b.inputs.waterings[watering].nozzle;
                self.b.emit(node, name, nozzle, watering, (arc, None));
            }
        }
        let head = HeadRef { group: self.group.id.clone(), index };
        let place = self.group.heads.iter().position(|h| h.0 == index);
        let area = place.map_or(0.0, |i| self.group.ground[i]);
        self.b.head(head, arc, watering, start, area);
    }

    /// A drip row: emitters along its own tube.
    fn row(&mut self, node: usize, name: &str, arc: u16, row: DripRow, tube: Bore) {
        let nozzle = &self.b.inputs.waterings[self.group.watering].nozzle;
        let nodes = row.emitters.min(MOST_ROW_NODES);
        let mut at = node;
        for i in 0..nodes {
            // Emitters i*E/n .. (i+1)*E/n sit on this node.
            let here = (row.emitters * (i + 1)) / nodes - (row.emitters * i) / nodes;
            let length = row.emitter_spacing * f64::from(here);
            let tube = pipe(length, tube.inside, tube.c, 0.0);
            let name = format!("{name}e{}", i + 1);
            at = self.b.extend(at, tube, Length::ZERO, Step::Lateral, name.clone());
            let mut lump = nozzle.clone();
            lump.flow = nozzle.flow * f64::from(here);
            self.b.emit(at, name, &lump, self.group.watering, (arc, None));
        }
    }
}

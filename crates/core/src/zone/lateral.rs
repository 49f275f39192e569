//! Laterals from a list: heads in a chain, fed in the middle, or in an H; drip rows on a header.

use super::build::{Builder, Head, Step, pipe_kind};
use crate::catalogue::{Kind, Nozzle};
use crate::plan::{Arrangement, HeadGroup, HeadRef};
use crate::units::{Length, Pressure};

/// Emitters of a drip row that get a node of their own; longer rows are lumped to so many.
const MOST_ROW_NODES: u32 = 60;

/// One head still to be placed: (place in the group, arc).
type Waiting = (u32, u16);

/// Lays the part of a group that hangs on this valve.
pub(super) fn lay(
    b: &mut Builder<'_>,
    valve_outlet: usize,
    group: &HeadGroup,
    valve: &str,
    body: Option<Pressure>,
) {
    let heads: Vec<Waiting> = group
        .heads()
        .filter(|h| h.2 == Some(valve))
        .map(|(i, arc, _)| (i, arc))
        .collect();
    let catalogue = b.catalogue;
    let (Some(nozzle), Some(pipe)) = (catalogue.nozzle(&group.nozzle), catalogue.pipe(&group.pipe)) else {
        return;
    };
    if heads.is_empty() {
        return;
    }
    let feed = group
        .feed_pipe
        .as_ref()
        .and_then(|p| catalogue.pipe(p))
        .unwrap_or(pipe);
    let fittings = b.plan.rules.fittings;
    let n = heads.len();
    let mut laying = Laying {
        b,
        group,
        nozzle,
        body,
        bore: (pipe.inside, pipe.c),
        // Along the rows the ground climbs evenly to the last head.
        climb: group.rise / rows_of(group.arrangement, n).0.max(1) as f64,
    };
    let first = |rise| (pipe_kind(group.distance, feed.inside, feed.c, fittings), rise);
    match group.arrangement {
        Arrangement::Chain => {
            let (kind, rise) = first(laying.climb);
            let name = format!("{}-{}", group.id, heads[0].0 + 1);
            let node = laying.b.extend(valve_outlet, kind, rise, Step::FirstLeg, name);
            laying.head(node, heads[0]);
            laying.arm(node, &heads[1..], 1.0, 1.0);
        }
        Arrangement::Middle => {
            let (kind, rise) = first(laying.climb * ((n + 1) as f64 / 2.0));
            let tee = laying.b.extend(
                valve_outlet,
                kind,
                rise,
                Step::FirstLeg,
                format!("{}-tee", group.id),
            );
            laying.fed_in_middle(tee, &heads);
        }
        Arrangement::H => {
            let (row, _) = rows_of(Arrangement::H, n);
            let (kind, rise) = first(laying.climb * ((row + 1) as f64 / 2.0));
            let tee = laying.b.extend(
                valve_outlet,
                kind,
                rise,
                Step::FirstLeg,
                format!("{}-tee", group.id),
            );
            let half = group.row_spacing.unwrap_or(group.spacing) / 2.0;
            for (name, part) in [("a", &heads[..row]), ("b", &heads[row..])] {
                if !part.is_empty() {
                    let kind = pipe_kind(half, pipe.inside, pipe.c, fittings);
                    let side = laying.b.extend(
                        tee,
                        kind,
                        Length::ZERO,
                        Step::Lateral,
                        format!("{}-row-{name}", group.id),
                    );
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
    group: &'l HeadGroup,
    nozzle: &'a Nozzle,
    body: Option<Pressure>,
    bore: (Length, f64),
    climb: Length,
}

impl Laying<'_, '_> {
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
            let kind = pipe_kind(
                self.group.spacing * share,
                self.bore.0,
                self.bore.1,
                self.b.plan.rules.fittings,
            );
            let name = format!("{}-{}", self.group.id, head.0 + 1);
            at = self
                .b
                .extend(at, kind, self.climb * (share * uphill), Step::Lateral, name);
            self.head(at, head);
        }
    }

    fn head(&mut self, node: usize, (index, arc): Waiting) {
        let name = format!("{}.{}", self.group.id, index + 1);
        let kind = self.b.catalogue.kind(self.nozzle.kind);
        let start = self.b.network.emitters.len();
        if self.group.row.is_some() {
            self.row(node, &name, arc);
        } else {
            self.b.emit(node, name, self.nozzle, kind, arc, self.body);
        }
        let emitters = start..self.b.network.emitters.len();
        let head = HeadRef {
            group: self.group.id.clone(),
            index,
        };
        self.b.heads.push(Head {
            head,
            arc,
            nozzle: self.nozzle,
            kind,
            emitters,
            area_m2: self.area(arc),
        });
    }

    /// A drip row: emitters along its own tube.
    fn row(&mut self, node: usize, name: &str, arc: u16) {
        let Some(row) = self.group.row else { return };
        let kind = self.b.catalogue.kind(self.nozzle.kind);
        let tube = if self.nozzle.kind == Kind::Tape {
            "tape 5/8in"
        } else {
            "dripline 17mm"
        };
        let Some(tube) = tube.parse().ok().and_then(|id| self.b.catalogue.pipe(&id)) else {
            return;
        };
        let nodes = row.emitters.min(MOST_ROW_NODES);
        let mut at = node;
        for i in 0..nodes {
            // Emitters i*E/n .. (i+1)*E/n sit on this node.
            let here = (row.emitters * (i + 1)) / nodes - (row.emitters * i) / nodes;
            let length = row.emitter_spacing * f64::from(here);
            let tube = pipe_kind(length, tube.inside, tube.c, 0.0);
            at = self
                .b
                .extend(at, tube, Length::ZERO, Step::Lateral, format!("{name}e{}", i + 1));
            let mut lump = self.nozzle.clone();
            lump.flow = self.nozzle.flow * f64::from(here);
            self.b
                .emit(at, format!("{name}e{}", i + 1), &lump, kind, arc, None);
        }
    }

    fn area(&self, arc: u16) -> f64 {
        let spacing = self.group.spacing.m();
        if let Some(row) = self.group.row {
            return spacing * row.emitter_spacing.m() * f64::from(row.emitters);
        }
        if let Some(strip) = self.nozzle.pattern {
            let (width, length) = (strip.width, strip.length);
            return width.m() * length.m();
        }
        if self.nozzle.kind == Kind::Bubbler || self.nozzle.kind == Kind::Emitter {
            return spacing * spacing;
        }
        spacing * self.group.row_spacing.unwrap_or(self.group.spacing).m() * f64::from(arc) / 360.0
    }
}

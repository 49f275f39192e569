//! A line of the list of parts, and the tally that lines are gathered in.

use crate::units::Length;
use serde::Serialize;
use std::collections::HashMap;

/// What sort of thing a line is: the sections of the list, in its order.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum LineKind {
    /// Pressure pipe, by the stick or coil.
    Pipe,
    /// Drip tube, by the coil.
    Tubing,
    /// What pipes and parts are joined with.
    Fitting,
    /// Bodies.
    Head,
    /// Nozzles, by arc.
    Nozzle,
    /// Valves of zones, and such as are shut by hand.
    Valve,
    /// Valve boxes.
    Box,
    /// What holds pressure down.
    Regulator,
    /// What holds dirt back.
    Filter,
    /// What keeps water from flowing back.
    Backflow,
    /// Wire and its connectors.
    Wire,
    /// Controllers.
    Controller,
    /// Emitters, stakes, flush valves.
    Drip,
    /// Cement, tape, gravel, and what hands added.
    Sundry,
}

impl LineKind {
    /// All, in the order of the list.
    pub const ALL: [Self; 14] = [
        Self::Pipe,
        Self::Tubing,
        Self::Fitting,
        Self::Head,
        Self::Nozzle,
        Self::Valve,
        Self::Box,
        Self::Regulator,
        Self::Filter,
        Self::Backflow,
        Self::Wire,
        Self::Controller,
        Self::Drip,
        Self::Sundry,
    ];
}

/// What a quantity counts.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Unit {
    /// Single pieces.
    Each,
    /// Straight lengths.
    Stick,
    /// Rolled lengths.
    Coil,
    /// Rolls of tape.
    Roll,
    /// Tins of a pint (0.47 L).
    Pint,
    /// Bags of half a cubic foot (14 L).
    Bag,
    /// As a hand wrote it.
    Written(String),
}

impl Unit {
    /// Its word in files.
    pub fn word(&self) -> &str {
        match self {
            Self::Each => "each",
            Self::Stick => "stick",
            Self::Coil => "coil",
            Self::Roll => "roll",
            Self::Pint => "pint",
            Self::Bag => "bag",
            Self::Written(word) => word,
        }
    }
}

/// Why so many.
#[derive(Debug, Clone, PartialEq)]
pub enum How {
    /// Straight lengths: pieces packed into sticks, and what waste asks for; the larger counts.
    Sticks {
        /// Laid in all.
        laid: Length,
        /// Pieces that are cut.
        pieces: usize,
        /// Length of one stick.
        stick: Length,
        /// Sticks that all pieces were packed into.
        packed: usize,
        /// Sticks that no packing goes below.
        bound: usize,
        /// Share bought over what is laid.
        waste: f64,
    },
    /// Coils: the cheapest that hold all pieces uncut, with waste.
    Coils {
        /// Laid in all.
        laid: Length,
        /// Pieces that are cut.
        pieces: usize,
        /// Bought in all coils of the pipe together.
        bought: Length,
        /// Share bought over what is laid.
        waste: f64,
        /// Chosen by price; else as coils usually cost.
        priced: bool,
    },
    /// One at each place on the plan that is named, for this reason.
    Each(Reason),
    /// So many of them, for a reason, out of a rule with a figure: `per` of what is counted make one.
    Per {
        /// What is counted.
        reason: Reason,
        /// How many of that.
        count: f64,
        /// Make one.
        per: f64,
    },
    /// A hand said how many.
    ByHand {
        /// What the plan counts.
        counted: f64,
        /// What the hand wrote to it.
        note: String,
    },
}

/// Reasons that parts are counted for; the words are elsewhere.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Reason {
    /// Three pipes meet.
    Branch,
    /// Four pipes meet.
    Crossing,
    /// Pipe turns.
    Turn,
    /// A size ends.
    SizeEnds,
    /// A straight leg is longer than a stick.
    LongLeg,
    /// A straight leg is joined to the next.
    InLine,
    /// The last head of a lateral.
    LastHead,
    /// A head that the lateral goes on behind.
    HeadOnTheWay,
    /// Pipe begins at a thread.
    ThreadToPipe,
    /// Pipe of one system meets another's.
    SystemsMeet,
    /// A manifold is taken out without cutting it.
    Manifold,
    /// An end is closed.
    ClosedEnd,
    /// Shut by hand.
    Isolation,
    /// Drains a low end.
    Drain,
    /// Opened to flush.
    Flush,
    /// Heads.
    Heads,
    /// A head gives under a wheel.
    Swing,
    /// A zone.
    Zone,
    /// A part of a zone's assembly.
    Assembly,
    /// Parts whose ends do not fit by themselves.
    EndsApart,
    /// Part of the connection.
    Connection,
    /// Valves of a box.
    ValvesOfBox,
    /// Strands of wire.
    Strands,
    /// A wire ends at a valve.
    WireEnds,
    /// Stations.
    Stations,
    /// Emitters.
    Emitters,
    /// Tube is pinned down.
    Pinned,
    /// Micro tubes.
    MicroTubes,
    /// For each ring that one emitter feeds.
    Rings,
    /// Holes that may be punched wrong.
    Holes,
    /// Air gets out and in.
    Air,
    /// Glued ends.
    GluedEnds,
    /// Taped threads.
    TapedThreads,
    /// Barbs that are clamped.
    Barbs,
    /// Boxes stand in gravel.
    BoxGravel,
    /// Mains are marked.
    MainTrench,
    /// A spare sleeve or strand.
    Spare,
}

/// A line.
#[derive(Debug, Clone, PartialEq)]
pub struct Line {
    /// Its section.
    pub kind: LineKind,
    /// The part: the same for the same thing in every job.
    pub part: String,
    /// For people, without size.
    pub label: String,
    /// Its size, for people; empty where it has none.
    pub size: String,
    /// What is bought.
    pub quantity: f64,
    /// Of what.
    pub unit: Unit,
    /// Length of one piece, of pipe and the like.
    pub piece: Option<Length>,
    /// What the plan uses: metres of pipe and tube, else pieces.
    pub used: f64,
    /// Where on the plan: ids.
    pub from: Vec<String>,
    /// Why so many.
    pub how: Vec<How>,
}

impl Line {
    /// For people: `PVC tee 3/4 in`.
    pub fn text(&self) -> String {
        if self.size.is_empty() { self.label.clone() } else { format!("{} {}", self.label, self.size) }
    }
    /// A hand said its quantity, or put it there.
    pub fn is_by_hand(&self) -> bool {
        self.how.iter().any(|h| matches!(h, How::ByHand { .. }))
    }
}

/// A nominal size for people: `1-1/4in` is 1 1/4 in.
pub fn size_for_people(size: &str) -> String {
    size.replace("in", " in").replace("mm", " mm").replace('-', " ")
}

/// What a part is called.
#[derive(Debug, Clone)]
pub(super) struct Named {
    pub kind: LineKind,
    pub part: String,
    pub label: String,
    pub size: String,
}

impl Named {
    pub fn new(kind: LineKind, part: impl Into<String>, label: impl Into<String>) -> Self {
        Self { kind, part: part.into(), label: label.into(), size: String::new() }
    }
    pub fn sized(self, size: impl Into<String>) -> Self {
        Self { size: size.into(), ..self }
    }
}

/// Lines as they are gathered: the same part once.
#[derive(Debug, Default)]
pub(super) struct Tally {
    pub lines: Vec<Line>,
    places: HashMap<(String, i64), usize>,
}

impl Tally {
    /// So many more of a part, each for a reason at a place of the plan.
    pub fn each(&mut self, part: Named, n: f64, reason: Reason, from: &str) {
        self.add(part, Unit::Each, n, How::Each(reason), &[from.to_owned()]);
    }

    /// So many more.
    pub fn add(&mut self, part: Named, unit: Unit, n: f64, how: How, from: &[String]) {
        if n <= 0.0 {
            return;
        }
        let line = self.line(part, unit, None);
        line.quantity += n;
        line.used += n;
        if !line.how.contains(&how) {
            line.how.push(how);
        }
        for id in from {
            if !id.is_empty() && !line.from.contains(id) {
                line.from.push(id.clone());
            }
        }
    }

    /// The line of a part, new where there is none yet.
    pub fn line(&mut self, part: Named, unit: Unit, piece: Option<Length>) -> &mut Line {
        let millimetres = piece.map_or(0, |p| (p.m() * 1000.0).round() as i64);
        let next = self.lines.len();
        let at = *self.places.entry((part.part.clone(), millimetres)).or_insert(next);
        if at == next {
            self.lines.push(Line {
                kind: part.kind,
                part: part.part,
                label: part.label,
                size: part.size,
                quantity: 0.0,
                unit,
                piece,
                used: 0.0,
                from: Vec::new(),
                how: Vec::new(),
            });
        }
        &mut self.lines[at]
    }
}

//! What was done with the hands, and the edit that it becomes.
//!
//! | file | idea |
//! |---|---|
//! | `work` | each gesture on a draft of the plan |
//! | `corners` | corners and edges of an outline |
//! | `pipes` | pipe laid, bent, joined and taken up |
//! | `whole` | things as a whole: copied, joined, spread over pieces |

mod corners;
pub(super) mod pipes;
#[cfg(test)]
mod tests;
mod whole;
mod work;

use crate::plan::{DrawnHead, LegOf};
use crate::site::{Area, AreaKind, DryKind, Form, KeepDry, Motion, ObjectKind, Point, Shape, SiteObject};
use crate::units::Length;
use serde::{Deserialize, Serialize};

/// One thing done with the hands on the board. Names of new things are chosen by whoever draws, so
/// that a later gesture can speak of them before an earlier one has arrived.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "do", rename_all = "kebab-case", deny_unknown_fields)]
pub enum Gesture {
    /// Draws something new.
    Add {
        /// What.
        thing: SiteObject,
    },
    /// Takes things and heads off the board.
    Remove {
        /// Things and heads, by their ids.
        ids: Vec<String>,
    },
    /// Moves, turns or mirrors things and heads.
    Move {
        /// Things and heads, by their ids.
        ids: Vec<String>,
        /// How.
        motion: Motion,
    },
    /// The same to copies of them; `new` names the copies in the same order.
    Copy {
        /// Things and heads, by their ids.
        ids: Vec<String>,
        /// Names of what is new.
        new: Vec<String>,
        /// How.
        motion: Motion,
    },
    /// Moves a corner; ring 0 is the edge, then the holes.
    Corner {
        /// The thing, by its id.
        id: String,
        /// 0 is the edge, then the holes.
        ring: usize,
        /// Which corner, from 0.
        index: usize,
        /// Where to.
        to: Point,
    },
    /// A new corner on an edge.
    InsertCorner {
        /// The thing, by its id.
        id: String,
        /// 0 is the edge, then the holes.
        ring: usize,
        /// Which edge, by the corner that it begins at.
        edge: usize,
        /// Where.
        at: Point,
    },
    /// Takes a corner away.
    RemoveCorner {
        /// The thing, by its id.
        id: String,
        /// 0 is the edge, then the holes.
        ring: usize,
        /// Which corner, from 0.
        index: usize,
    },
    /// Moves an edge with both its corners.
    Edge {
        /// The thing, by its id.
        id: String,
        /// 0 is the edge, then the holes.
        ring: usize,
        /// Which edge, by the corner that it begins at.
        edge: usize,
        /// How far; or what is cut out, by its ids.
        by: Point,
    },
    /// Makes an edge so long: its end moves along it.
    EdgeLength {
        /// The thing, by its id.
        id: String,
        /// 0 is the edge, then the holes.
        ring: usize,
        /// Which edge, by the corner that it begins at.
        edge: usize,
        /// How long it is to be.
        length: Length,
    },
    /// Bends an edge: how far the middle of the arc rises over the chord, to the right of the way
    /// the corners go; zero is straight.
    Bend {
        /// The thing, by its id.
        id: String,
        /// 0 is the edge, then the holes.
        ring: usize,
        /// Which edge, by the corner that it begins at.
        edge: usize,
        /// Of its middle over the chord.
        rise: Length,
    },
    /// Cuts a corner off.
    Chamfer {
        /// The thing, by its id.
        id: String,
        /// 0 is the edge, then the holes.
        ring: usize,
        /// Which corner, from 0.
        index: usize,
        /// Off each of its edges.
        cut: Length,
    },
    /// Rounds a corner.
    Round {
        /// The thing, by its id.
        id: String,
        /// 0 is the edge, then the holes.
        ring: usize,
        /// Which corner, from 0.
        index: usize,
        /// Of the arc, or of the throw; none is the full throw.
        radius: Length,
    },
    /// Parts a thing along a line; `new` names the other pieces.
    Split {
        /// The thing, by its id.
        id: String,
        /// Where the line begins.
        from: Point,
        /// Where to.
        to: Point,
        /// Names of what is new.
        new: Vec<String>,
    },
    /// Makes one of several: the first keeps its name.
    Join {
        /// Things and heads, by their ids.
        ids: Vec<String>,
    },
    /// Cuts other things out of one; `new` names further pieces.
    CutOut {
        /// The thing, by its id.
        id: String,
        /// How far; or what is cut out, by its ids.
        by: Vec<String>,
        /// Names of what is new.
        new: Vec<String>,
    },
    /// A copy that lies a distance outside (or, negative, inside) of a thing.
    Offset {
        /// The thing, by its id.
        id: String,
        /// Outside, or negative inside.
        distance: Length,
        /// Names of what is new.
        new: String,
    },
    /// A strip of new ground along one edge, outside where the width is positive.
    Strip {
        /// The thing, by its id.
        id: String,
        /// 0 is the edge, then the holes.
        ring: usize,
        /// Which edge, by the corner that it begins at.
        edge: usize,
        /// Of the strip.
        width: Length,
        /// Names of what is new.
        new: String,
        /// What it is.
        kind: NewKind,
    },
    /// Places a head. `group` names the group that is made if there is none for it yet.
    PlaceHead {
        /// The group of heads, by its id.
        group: String,
        /// The area that it waters.
        area: Option<String>,
        /// By its name in the catalogue.
        nozzle: String,
        /// The head.
        head: DrawnHead,
    },
    /// Places a head and lets the ground say its arc: at a corner of an area it waters the corner,
    /// on an edge half a circle, elsewhere all round.
    SetHead {
        /// The thing, by its id.
        id: String,
        /// Where.
        at: Point,
        /// By its name in the catalogue.
        nozzle: String,
        /// The group of heads, by its id.
        group: String,
        /// The valve, by its id; or none.
        valve: Option<String>,
    },
    /// Sets a head's arc and where it looks.
    TurnHead {
        /// The thing, by its id.
        id: String,
        /// Degrees, 0 to the right, counter-clockwise.
        facing: f64,
        /// Degrees.
        arc: u16,
    },
    /// Turns a head's throw down, or back to full.
    ThrowHead {
        /// Things and heads, by their ids.
        ids: Vec<String>,
        /// Of the arc, or of the throw; none is the full throw.
        radius: Option<Length>,
    },
    /// Another nozzle; `group` names the group that is made if there is none for it yet.
    ChangeNozzle {
        /// Things and heads, by their ids.
        ids: Vec<String>,
        /// By its name in the catalogue.
        nozzle: String,
        /// The group of heads, by its id.
        group: String,
    },
    /// Puts heads on a valve or on none.
    HeadsToValve {
        /// Things and heads, by their ids.
        ids: Vec<String>,
        /// The valve, by its id; or none.
        valve: Option<String>,
    },
    /// Locks heads against the next layout, or lets them go.
    LockHeads {
        /// Things and heads, by their ids.
        ids: Vec<String>,
        /// Whether they are locked.
        locked: bool,
    },
    /// Lays a pipe of a main or a lateral along a way; its ends join what is near.
    LayPipe {
        /// Whose.
        of: LegOf,
        /// Its points, both ends too.
        way: Vec<Point>,
        /// Names of what is new: the pipe, then joints and what is left of a pipe that is parted.
        new: Vec<String>,
    },
    /// Turns the north arrow.
    North {
        /// From the top of the sheet, clockwise.
        degrees: f64,
    },
}

/// What new ground is.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum NewKind {
    /// Watered.
    Area(AreaKind),
    /// Kept dry.
    Dry(DryKind),
}

impl NewKind {
    /// A thing of this kind with an outline.
    pub fn thing(self, id: &str, shape: Shape) -> SiteObject {
        let what = match self {
            Self::Area(kind) => ObjectKind::Area(Area { kind, shape, ..Area::default() }),
            Self::Dry(kind) => ObjectKind::Dry(KeepDry { kind, height: None, form: Form::Region(shape) }),
        };
        SiteObject { id: id.to_owned(), name: String::new(), what }
    }
}

/// Why a gesture can't be done, and what it is about.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[error("{message}")]
pub struct GestureFault {
    /// For the person who draws.
    pub message: String,
    /// The thing it is about, where there is one.
    pub about: Option<String>,
    /// Where on the ground, when one place is to blame, metres.
    pub place: Option<Point>,
}

impl GestureFault {
    pub(super) fn new(message: impl Into<String>) -> Self {
        Self { message: message.into(), about: None, place: None }
    }
    pub(super) fn at(id: &str, message: impl Into<String>) -> Self {
        Self { message: message.into(), about: Some(id.to_owned()), place: None }
    }
    pub(super) fn gone(id: &str) -> Self {
        Self::at(id, "is no longer on the plan")
    }
}

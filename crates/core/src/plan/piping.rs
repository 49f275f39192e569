//! Pipe as it is drawn: joints and legs. A leg runs from one named thing to another: a point of
//! connection, a valve box (where the main comes to its manifold), a valve, a head, or a joint of its
//! own. What has a place elsewhere on the plan takes it along when it is moved.

use super::{Plan, Valve};
use crate::catalogue::PipeId;
use crate::site::{ObjectKind, PlaceKind, Point};
use crate::terms::{Lang, term};
use crate::units::Length;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// All pipe of a job.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Piping {
    /// Tees, ends and what else stands in the pipe.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub joints: Vec<Joint>,
    /// Pipes between them.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub legs: Vec<PipeLeg>,
}

/// Something in the pipe that has no other place on the plan.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Joint {
    /// Stable name in the file.
    pub id: String,
    /// What it is.
    #[serde(rename = "is", default)]
    pub kind: JointKind,
    /// Where.
    pub at: Point,
}

/// Kinds of joint.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum JointKind {
    /// Where a pipe branches or changes its size.
    #[default]
    Tee,
    /// A valve that is shut by hand.
    Isolation,
    /// Drains the low end by itself.
    Drain,
    /// Opened to flush.
    Flush,
    /// Capped, for what comes later.
    Stub,
}

impl JointKind {
    /// Its name.
    pub fn name(self, lang: Lang) -> &'static str {
        let key = match self {
            Self::Tee => "joint.tee",
            Self::Isolation => "joint.isolation",
            Self::Drain => "joint.drain",
            Self::Flush => "joint.flush",
            Self::Stub => "joint.stub",
        };
        term(key, lang)
    }
}

/// A pipe between two named ends.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PipeLeg {
    /// Stable name in the file.
    pub id: String,
    /// Main or lateral, and whose.
    pub of: LegOf,
    /// Where it begins: the name of a point of connection, valve box, valve, head or joint.
    pub from: String,
    /// Where it ends.
    pub to: String,
    /// Points in between where it bends.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub bends: Vec<Point>,
    /// The pipe.
    pub pipe: PipeId,
    /// Its size stays as it is when sizes are proposed.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub size_pinned: bool,
    /// Its route stays as it is when routes are proposed.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub kept: bool,
    /// Depth of its cover; none: that of the house for its kind.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub depth: Option<Length>,
    /// The sleeve that it crosses paving in; none: no sleeve.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sleeve: Option<PipeId>,
}

/// What a leg belongs to.
#[derive(Debug, Clone, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum LegOf {
    /// The main of a point of connection.
    Main(String),
    /// The lateral of a valve.
    Lateral(String),
}

impl Piping {
    /// True if nothing is drawn.
    pub fn is_blank(&self) -> bool {
        self.joints.is_empty() && self.legs.is_empty()
    }
    /// The leg of this id.
    pub fn leg(&self, id: &str) -> Option<&PipeLeg> {
        self.legs.iter().find(|l| l.id == id)
    }
    /// The joint of this id.
    pub fn joint(&self, id: &str) -> Option<&Joint> {
        self.joints.iter().find(|j| j.id == id)
    }
    /// The lateral of a valve.
    pub fn lateral<'p>(&'p self, valve: &'p str) -> impl Iterator<Item = &'p PipeLeg> + 'p {
        self.legs.iter().filter(move |l| matches!(&l.of, LegOf::Lateral(v) if v == valve))
    }
    /// The main of a point of connection.
    pub fn main<'p>(&'p self, supply: &'p str) -> impl Iterator<Item = &'p PipeLeg> + 'p {
        self.legs.iter().filter(move |l| matches!(&l.of, LegOf::Main(s) if s == supply))
    }
}

/// What a pipe of a main or a lateral can end at, with its place: joints of its own; the connection and the
/// boxes of a main; the valve and the heads of a lateral.
pub fn drawn_ends(plan: &Plan, of: &LegOf) -> Vec<(String, Point)> {
    let mut ends: Vec<(String, Point)> = Vec::new();
    match of {
        LegOf::Main(supply) => {
            ends.extend(plan.connection_point(supply).map(|p| (supply.clone(), p)));
            let boxes = plan.site.places(PlaceKind::ValveBox);
            ends.extend(boxes.map(|(t, p)| (t.id.clone(), p.at)));
        }
        LegOf::Lateral(valve) => {
            let own = plan.valve(valve).and_then(|v| plan.valve_point(v));
            ends.extend(own.map(|p| (valve.clone(), p)));
            let heads = plan.groups.iter().flat_map(|g| &g.drawn);
            let on = heads.filter(|h| h.valve.as_deref() == Some(valve));
            ends.extend(on.map(|h| (h.id.clone(), h.at)));
        }
    }
    let legs = plan.piping.legs.iter().filter(|l| l.of == *of);
    for end in legs.flat_map(|l| [&l.from, &l.to]) {
        if let Some(joint) = plan.piping.joint(end)
            && !ends.iter().any(|e| e.0 == joint.id)
        {
            ends.push((joint.id.clone(), joint.at));
        }
    }
    ends
}

impl PipeLeg {
    /// A leg without bends.
    pub fn straight(id: &str, of: LegOf, from: &str, to: &str, pipe: PipeId) -> Self {
        Self {
            id: id.to_owned(),
            of,
            from: from.to_owned(),
            to: to.to_owned(),
            bends: Vec::new(),
            pipe,
            size_pinned: false,
            kept: false,
            depth: None,
            sleeve: None,
        }
    }
    /// Part of a main.
    pub fn is_main(&self) -> bool {
        matches!(self.of, LegOf::Main(_))
    }
    /// The valve whose lateral it is part of.
    pub fn valve(&self) -> Option<&str> {
        match &self.of {
            LegOf::Lateral(valve) => Some(valve),
            LegOf::Main(_) => None,
        }
    }
}

impl Plan {
    /// Where the water of a point of connection comes out of its chain: its own mark on the ground, else
    /// the first mark of a meter or of the water that is nobody else's.
    pub fn connection_point(&self, supply: &str) -> Option<Point> {
        let marks =
            || [PlaceKind::Water, PlaceKind::Meter].into_iter().flat_map(|kind| self.site.places(kind));
        let own = marks().find(|(_, p)| p.supply.as_deref() == Some(supply));
        let anybody = || marks().find(|(_, p)| p.supply.is_none());
        own.or_else(anybody).map(|(_, p)| p.at)
    }

    /// The box that a valve stands in, where that is drawn.
    pub fn box_of<'p>(&'p self, valve: &'p Valve) -> Option<&'p str> {
        let id = valve.valve_box.as_deref()?;
        self.site.places(PlaceKind::ValveBox).any(|(t, _)| t.id == id).then_some(id)
    }

    /// Where the end of a leg lies, by its name. None: there is no such thing, or it has no place.
    pub fn pipe_end(&self, id: &str) -> Option<Point> {
        if let Some(joint) = self.piping.joint(id) {
            return Some(joint.at);
        }
        if let Some((_, head)) = self.drawn_head(id) {
            return Some(head.at);
        }
        if let Some(object) = self.site.object(id) {
            return match &object.what {
                ObjectKind::Place(place) => Some(place.at),
                _ => None,
            };
        }
        if let Some(valve) = self.valve(id) {
            return self.valve_point(valve);
        }
        self.supply(id).and_then(|s| self.connection_point(&s.id))
    }

    /// The way a leg runs, end to end. None where an end has no place.
    pub fn way_of(&self, leg: &PipeLeg) -> Option<Vec<Point>> {
        let (from, to) = (self.pipe_end(&leg.from)?, self.pipe_end(&leg.to)?);
        let mut way = Vec::with_capacity(leg.bends.len() + 2);
        way.push(from);
        way.extend(&leg.bends);
        way.push(to);
        Some(way)
    }
}

use super::fed::FedRing;
use crate::catalogue::PipeId;
use crate::site::Point;
use crate::units::{Flow, Length, Pressure};

/// Drip as it lies: a network of tubes, loops allowed, with its emitters. Joint 0 is the inlet.
#[derive(Debug, Clone, PartialEq)]
pub struct Laid {
    /// Where tubes meet or an emitter sits.
    pub joints: Vec<LaidJoint>,
    /// Tubes between them.
    pub tubes: Vec<Tube>,
    /// Emitters.
    pub emitters: Vec<LaidEmitter>,
    /// What its tubes are made of.
    pub stuff: Stuff,
    /// Rows in the order of the cut list; none where emitters stand at plants.
    pub rows: Vec<LaidRow>,
    /// Joint at which it is flushed: far from the inlet, low.
    pub flush: Option<usize>,
    /// Its highest joint, where air gets in below ground.
    pub air: Option<usize>,
    /// Row ends at which flushing water must still move: tube, whichever way.
    pub flushed: Vec<usize>,
    /// Ground that it waters, m2.
    pub ground_m2: f64,
    /// Between rows as they came to lie, evened out.
    pub row_spacing: Length,
    /// Micro tubes, each of its length.
    pub micro_tubes: Vec<Length>,
    /// Manifolds of outlets.
    pub manifolds: usize,
    /// Plants that it waters, each with its emitters and the flow it gets.
    pub plants: Vec<LaidPlant>,
}

/// The pipes of the catalogue that drip is laid with.
#[derive(Debug, Clone, PartialEq)]
pub struct Stuff {
    /// With emitters in it: rows, and the turns of a snake.
    pub tube: PipeId,
    /// Headers, feeds, lines past plants.
    pub header: PipeId,
    /// To single plants.
    pub micro: PipeId,
}

/// A joint.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LaidJoint {
    /// Where.
    pub at: Point,
    /// How high.
    pub height: Length,
}

/// What a tube is part of.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Part {
    /// A row, by its place among the rows.
    Row(usize),
    /// A header across the rows' ends.
    Header,
    /// From one row of a snake to the next.
    Turn,
    /// From the end of a snake back to its start.
    Return,
    /// From the inlet to the nearest joint.
    Feed,
    /// Between pieces of ground that lie apart.
    Link,
    /// The line past plants.
    Line,
    /// Micro tube to a plant, at line pressure.
    Micro,
}

/// A tube.
#[derive(Debug, Clone, PartialEq)]
pub struct Tube {
    /// Joint nearer to the inlet as it was laid; water may run either way.
    pub from: usize,
    /// The other joint.
    pub to: usize,
    /// What it is part of.
    pub part: Part,
    /// Its length.
    pub length: Length,
}

/// An emitter.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LaidEmitter {
    /// Joint that it sits at.
    pub joint: usize,
    /// Where its water falls.
    pub at: Point,
    /// What it gives at nominal pressure.
    pub flow: Flow,
    /// It is the open end of a micro tube: it gives what the pressure there drives out.
    pub open: bool,
    /// Left in what it feeds: it works against that. Nothing where its water falls to the ground.
    pub behind: Pressure,
}

/// A row of the cut list.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LaidRow {
    /// Where it begins.
    pub from: Point,
    /// Where it ends.
    pub to: Point,
    /// From its beginning to the first emitter.
    pub first: Length,
    /// Emitters on it.
    pub emitters: u32,
    /// Rows across the ground before it, of its own piece: even and odd ones are staggered.
    pub line: usize,
    /// Joints at its beginning and its end.
    pub joints: (usize, usize),
}

impl LaidRow {
    /// From end to end.
    pub fn length(&self) -> Length {
        Length::from_m(self.from.distance(self.to))
    }
}

/// A plant with what it gets.
#[derive(Debug, Clone, PartialEq)]
pub struct LaidPlant {
    /// Its id on the plan.
    pub plant: String,
    /// Where it stands.
    pub at: Point,
    /// Places of its emitters.
    pub emitters: std::ops::Range<usize>,
    /// What they give together at nominal pressure.
    pub flow: Flow,
    /// They are a ring that one emitter feeds.
    pub ring: Option<FedRing>,
}

/// Fittings by how many tubes meet in them.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Fittings {
    /// Closed ends.
    pub ends: usize,
    /// Elbows, where tube can't be bent.
    pub elbows: usize,
    /// Tees.
    pub tees: usize,
    /// Four tubes in one place: two tees close together, or a cross.
    pub crosses: usize,
}

impl Fittings {
    /// All of them.
    pub fn all(&self) -> usize {
        self.ends + self.elbows + self.tees + self.crosses
    }
    /// Together with others.
    #[must_use]
    pub fn with(self, other: Self) -> Self {
        Self {
            ends: self.ends + other.ends,
            elbows: self.elbows + other.elbows,
            tees: self.tees + other.tees,
            crosses: self.crosses + other.crosses,
        }
    }
}

impl Stuff {
    /// The pipe of a part.
    pub fn of(&self, part: Part) -> &PipeId {
        match part {
            Part::Row(_) | Part::Turn => &self.tube,
            Part::Micro => &self.micro,
            Part::Header | Part::Return | Part::Feed | Part::Link | Part::Line => &self.header,
        }
    }
}

impl Laid {
    /// Nothing yet but its inlet.
    pub(super) fn at(inlet: Point, stuff: &Stuff) -> Self {
        Self {
            joints: vec![LaidJoint { at: inlet, height: Length::ZERO }],
            tubes: Vec::new(),
            emitters: Vec::new(),
            stuff: stuff.clone(),
            rows: Vec::new(),
            flush: None,
            air: None,
            flushed: Vec::new(),
            ground_m2: 0.0,
            row_spacing: Length::ZERO,
            micro_tubes: Vec::new(),
            manifolds: 0,
            plants: Vec::new(),
        }
    }
    /// A joint more.
    pub(super) fn joint(&mut self, at: Point) -> usize {
        self.joints.push(LaidJoint { at, height: Length::ZERO });
        self.joints.len() - 1
    }
    /// A straight tube more.
    pub(super) fn tube(&mut self, from: usize, to: usize, part: Part) {
        let length = Length::from_m(self.joints[from].at.distance(self.joints[to].at));
        self.tubes.push(Tube { from, to, part, length });
    }
    /// What its emitters give at nominal pressure.
    pub fn flow(&self) -> Flow {
        self.emitters.iter().map(|e| e.flow).sum()
    }
    /// Length of the tubes of some parts.
    pub fn length_of(&self, wanted: impl Fn(Part) -> bool) -> Length {
        let of = self.tubes.iter().filter(|t| wanted(t.part));
        Length::from_m(of.map(|t| t.length.m()).sum())
    }
    /// Tube with emitters in it: rows, and the turns of a snake.
    pub fn dripline(&self) -> Length {
        self.length_of(|p| matches!(p, Part::Row(_) | Part::Turn))
    }
    /// All other tube but micro tube.
    pub fn plain_tube(&self) -> Length {
        self.length_of(|p| !matches!(p, Part::Row(_) | Part::Turn | Part::Micro))
    }
    /// The longest row.
    pub fn longest_row(&self) -> Length {
        self.rows.iter().map(LaidRow::length).reduce(Length::max).unwrap_or_default()
    }
    /// The steepest fall along a row: height over length, and that height over the row.
    pub fn steepest_row(&self) -> (f64, Length) {
        let fall = |r: &LaidRow| {
            let height = (self.joints[r.joints.0].height - self.joints[r.joints.1].height).m().abs();
            (height / r.length().m().max(1e-9), Length::from_m(height))
        };
        let falls = self.rows.iter().map(fall);
        falls.max_by(|a, b| a.1.m().total_cmp(&b.1.m())).unwrap_or((0.0, Length::ZERO))
    }
    /// Fittings by the tubes that meet at each joint. Where just two of different pipe or direction meet
    /// it is an elbow, unless the bend is as wide as `bend` allows.
    pub fn fittings(&self, bend: Length) -> Fittings {
        let mut meet: Vec<Vec<usize>> = vec![Vec::new(); self.joints.len()];
        for (i, tube) in self.tubes.iter().enumerate().filter(|(_, t)| t.part != Part::Micro) {
            meet[tube.from].push(i);
            meet[tube.to].push(i);
        }
        let mut count = Fittings::default();
        for (joint, tubes) in meet.iter().enumerate() {
            match tubes[..] {
                [] => {}
                [_] if joint == 0 || Some(joint) == self.flush => {}
                [_] => count.ends += 1,
                [a, b] => {
                    let (a, b) = (&self.tubes[a], &self.tubes[b]);
                    let straight = a.part == b.part && !matches!(a.part, Part::Header | Part::Turn);
                    let turn = a.part == Part::Turn || b.part == Part::Turn;
                    let wide = |t: &Tube| t.part != Part::Turn || t.length.m() >= bend.m() * 2.0 - 1e-6;
                    if !(straight || turn && wide(a) && wide(b)) {
                        count.elbows += usize::from(!self.in_line(joint, a, b));
                    }
                }
                [_, _, _] => count.tees += 1,
                _ => count.crosses += 1,
            }
        }
        count
    }

    /// Two tubes go straight on through a joint, within 20 degrees.
    fn in_line(&self, joint: usize, a: &Tube, b: &Tube) -> bool {
        let away = |t: &Tube| {
            let other = if t.from == joint { t.to } else { t.from };
            (self.joints[other].at - self.joints[joint].at).unit()
        };
        matches!((away(a), away(b)), (Some(a), Some(b)) if a.dot(b) < -0.94)
    }
}

//! The pipe that is bought, as a graph: what is drawn, what hangs straight where nothing is drawn, and what
//! is only listed, all in one form. Fittings follow from its nodes, cut lengths from its legs.

use crate::catalogue::{Kind, PipeId};
use crate::drip::{Laid, Part, lay, least_bend, tube_of};
use crate::job::Job;
use crate::plan::{Arrangement, DripLaying, HeadGroup, JointKind, LegOf, PipeLeg, RowEnds, Valve};
use crate::site::Point;
use crate::units::Length;
use crate::zone::{drawn_on, legs, main_reaches};
use std::collections::HashMap;

/// What stands at a node.
#[derive(Debug, Clone, PartialEq)]
pub(super) enum Spot {
    /// Water comes from here.
    Connection,
    /// A box: the main comes to its valves.
    Box(Vec<String>),
    /// The inlet of a valve: a main comes to it.
    Inlet(String),
    /// The last outlet of a valve's parts: its lateral begins here.
    Outlet(String),
    /// A head with the thread at its foot; none: it sits in the tube.
    Head(Option<String>),
    /// Shut by hand.
    Isolation,
    /// Drains itself.
    Drain,
    /// Opened to flush.
    Flush,
    /// Air gets out and in.
    Air,
    /// Closed, for what comes later.
    Stub,
    /// Nothing but pipe.
    Plain,
}

#[derive(Debug, Clone)]
pub(super) struct Node {
    pub id: String,
    pub spot: Spot,
}

/// A stretch of pipe between two nodes.
#[derive(Debug, Clone)]
pub(super) struct NetLeg {
    /// What it is on the plan.
    pub id: String,
    pub ends: (usize, usize),
    pub pipe: PipeId,
    /// Straight stretches, in the direction of `ends`.
    pub straight: Vec<Length>,
    /// Turns between them, degrees.
    pub turns: Vec<f64>,
    /// Directions away from either end; none where it is only listed.
    pub away: [Option<Point>; 2],
    /// Bent in a wide bow: no elbow at its ends.
    pub bow: bool,
    /// It is cut with its row or line, not by itself.
    pub in_row: bool,
}

#[derive(Debug, Clone, Default)]
pub(super) struct Net {
    pub nodes: Vec<Node>,
    pub legs: Vec<NetLeg>,
    names: HashMap<String, usize>,
}

/// Laid drip of one inlet, with its group.
#[derive(Debug, Clone)]
pub(super) struct LaidPart<'j> {
    pub group: &'j HeadGroup,
    pub laid: Laid,
    /// The valve that it hangs on.
    pub valve: Option<String>,
}

/// All pipe of a job: mains first, then laterals by valve.
pub(super) struct Nets<'j> {
    pub nets: Vec<Net>,
    pub drip: Vec<LaidPart<'j>>,
    /// Groups whose drip can't be laid, by id.
    pub not_laid: Vec<String>,
}

impl Net {
    pub fn node(&mut self, id: &str, spot: Spot) -> usize {
        let next = self.nodes.len();
        let at = *self.names.entry(id.to_owned()).or_insert(next);
        if at == next {
            self.nodes.push(Node { id: id.to_owned(), spot });
        }
        at
    }

    fn listed(&mut self, id: &str, from: usize, to: usize, pipe: &PipeId, length: Length) {
        if length.m() <= 1e-6 {
            return;
        }
        self.legs.push(NetLeg {
            id: id.to_owned(),
            ends: (from, to),
            pipe: pipe.clone(),
            straight: vec![length],
            turns: Vec::new(),
            away: [None, None],
            bow: false,
            in_row: false,
        });
    }

    fn along(&mut self, id: &str, from: usize, to: usize, pipe: &PipeId, way: &[Point]) {
        let stretches: Vec<(Point, f64)> =
            way.windows(2).filter_map(|w| Some(((w[1] - w[0]).unit()?, w[0].distance(w[1])))).collect();
        let (Some(first), Some(last)) = (stretches.first(), stretches.last()) else {
            return;
        };
        let away = [Some(first.0), Some(last.0 * -1.0)];
        // What goes on within two degrees is one straight stretch.
        let mut straight: Vec<Length> = Vec::new();
        let mut turns = Vec::new();
        let mut before: Option<Point> = None;
        for (along, length) in &stretches {
            match before.map(|b| turn_between(b, *along)) {
                Some(turn) if turn < 2.0 => {
                    if let Some(last) = straight.last_mut() {
                        *last = *last + Length::from_m(*length);
                    }
                }
                turn => {
                    turns.extend(turn);
                    straight.push(Length::from_m(*length));
                }
            }
            before = Some(*along);
        }
        self.legs.push(NetLeg {
            id: id.to_owned(),
            ends: (from, to),
            pipe: pipe.clone(),
            straight,
            turns,
            away,
            bow: false,
            in_row: false,
        });
    }
}

/// Degrees by which the way turns.
pub(super) fn turn_between(before: Point, after: Point) -> f64 {
    before.dot(after).clamp(-1.0, 1.0).acos().to_degrees()
}

impl<'j> Nets<'j> {
    pub fn of(job: &'j Job) -> Self {
        let mut all = Self { nets: Vec::new(), drip: Vec::new(), not_laid: Vec::new() };
        for group in job.groups.iter().filter(|g| g.drip.is_some()) {
            match lay(job, group) {
                Ok(parts) => {
                    for (laid, inlet) in parts.into_iter().zip(&group.drawn) {
                        let valve = inlet.valve.clone();
                        all.drip.push(LaidPart { group, laid, valve });
                    }
                }
                Err(_) => all.not_laid.push(group.id.clone()),
            }
        }
        for supply in &job.supplies {
            all.nets.extend(main(job, &supply.id));
        }
        for valve in &job.valves {
            let net = all.lateral(job, valve);
            all.nets.push(net);
        }
        all
    }

    fn lateral(&self, job: &Job, valve: &Valve) -> Net {
        let mut net = Net::default();
        let root = net.node(&valve.id, Spot::Outlet(valve.id.clone()));
        let heads = drawn_on(job, &valve.id);
        let thread = |group: &HeadGroup| -> Option<String> {
            let kind = job.catalogue().nozzle(&group.nozzle)?.kind;
            job.catalogue().class(kind).thread.clone()
        };
        let spot = |id: &str| match heads.iter().find(|h| h.2.id == id) {
            Some((group, _, _)) if group.drip.is_none() => Spot::Head(thread(group)),
            Some(_) => Spot::Plain,
            None => joint_spot(job, id),
        };
        let drawn: Vec<&PipeLeg> = job.piping.lateral(&valve.id).collect();
        for leg in &drawn {
            let Some(way) = job.way_of(leg) else { continue };
            let from = net.node(&leg.from, spot(&leg.from));
            let to = net.node(&leg.to, spot(&leg.to));
            net.along(&leg.id, from, to, &leg.pipe, &way);
        }
        // A head that the drawn lateral leaves out hangs on its nearest joint; where none is drawn, heads
        // hang on the shortest straight legs: as they are solved.
        let off: Vec<_> = heads.iter().filter(|h| !net.names.contains_key(&h.2.id)).collect();
        if drawn.is_empty() {
            let points: Vec<Point> = off.iter().map(|h| h.2.at).collect();
            let start = job.valve_point(valve);
            let mut nodes: Vec<usize> = Vec::new();
            for leg in legs(start, &points) {
                let (group, _, head) = off[leg.head];
                let to = net.node(&head.id, spot(&head.id));
                let from = leg.parent.map_or(root, |p| nodes[p]);
                nodes.push(to);
                let feed = group.feed_pipe.as_ref().filter(|_| leg.parent.is_none());
                let pipe = feed.unwrap_or(&group.pipe);
                if start.is_none() && leg.parent.is_none() {
                    net.listed(&head.id, from, to, pipe, group.distance);
                } else {
                    net.along(&head.id, from, to, pipe, &[leg.from, leg.to]);
                }
            }
        } else {
            let placed = net.nodes.iter().enumerate();
            let placed: Vec<(usize, Point)> =
                placed.filter_map(|(i, n)| Some((i, job.pipe_end(&n.id)?))).collect();
            for (group, _, head) in off {
                let near = |p: &&(usize, Point)| p.1.distance(head.at);
                let Some(&(from, at)) = placed.iter().min_by(|a, b| near(a).total_cmp(&near(b))) else {
                    continue;
                };
                let to = net.node(&head.id, spot(&head.id));
                net.along(&head.id, from, to, &group.pipe, &[at, head.at]);
            }
        }
        for part in self.drip.iter().filter(|p| p.valve.as_deref() == Some(&valve.id)) {
            let inlet = part.group.drawn.iter().find(|h| h.at == part.laid.joints[0].at);
            if let Some(inlet) = inlet.or(part.group.drawn.first()) {
                let at = net.node(&inlet.id, Spot::Plain);
                grid(job, &mut net, part, at);
            }
        }
        for group in &job.groups {
            listed(job, &mut net, root, group, &valve.id, thread(group));
        }
        net
    }
}

fn joint_spot(job: &Job, id: &str) -> Spot {
    match job.piping.joint(id).map(|j| j.kind) {
        Some(JointKind::Isolation) => Spot::Isolation,
        Some(JointKind::Drain) => Spot::Drain,
        Some(JointKind::Flush) => Spot::Flush,
        Some(JointKind::Stub) => Spot::Stub,
        Some(JointKind::Tee) | None => Spot::Plain,
    }
}

/// The main of a connection as drawn; valves that it does not reach have their mains as listed.
fn main(job: &Job, supply: &str) -> Option<Net> {
    let mut net = Net::default();
    let on = |id: &str| -> Spot {
        if id == supply {
            return Spot::Connection;
        }
        if job.valve(id).is_some() {
            return Spot::Inlet(id.to_owned());
        }
        let inside = job.valves.iter().filter(|v| v.valve_box.as_deref() == Some(id));
        let inside: Vec<String> = inside.filter(|v| v.supply == supply).map(|v| v.id.clone()).collect();
        match job.site.object(id) {
            Some(_) => Spot::Box(inside),
            None => joint_spot(job, id),
        }
    };
    for leg in job.piping.legs.iter().filter(|l| l.of == LegOf::Main(supply.to_owned())) {
        let Some(way) = job.way_of(leg) else { continue };
        let from = net.node(&leg.from, on(&leg.from));
        let to = net.node(&leg.to, on(&leg.to));
        net.along(&leg.id, from, to, &leg.pipe, &way);
    }
    for valve in job.valves.iter().filter(|v| v.supply == supply) {
        if let Some(main) = valve.mainline.as_ref().filter(|_| !main_reaches(job, valve)) {
            let from = net.node(supply, Spot::Connection);
            let to = net.node(&valve.id, Spot::Inlet(valve.id.clone()));
            net.listed(&valve.id, from, to, &main.pipe, main.length);
        }
    }
    (!net.legs.is_empty()).then_some(net)
}

/// Two ends so near to each other, metres, are one.
const NO_LENGTH: f64 = 1e-6;

/// Drip as it is laid, hung on the node of its inlet.
fn grid(job: &Job, net: &mut Net, part: &LaidPart<'_>, inlet: usize) {
    let laid = &part.laid;
    let id = part.group.id.as_str();
    let spot = |joint: usize| {
        if Some(joint) == laid.flush {
            Spot::Flush
        } else if Some(joint) == laid.air && is_buried(part.group) {
            Spot::Air
        } else {
            Spot::Plain
        }
    };
    // An inlet that stands on a header is one joint with it, not a closed end beside it.
    let mut one_with: Vec<usize> = (0..laid.joints.len()).collect();
    for tube in laid.tubes.iter().filter(|t| t.part != Part::Micro) {
        let (from, to) = (tube.from.min(tube.to), tube.from.max(tube.to));
        if laid.joints[from].at.distance(laid.joints[to].at) <= NO_LENGTH {
            one_with[to] = from;
        }
    }
    let first = |mut joint: usize| {
        while one_with[joint] != joint {
            joint = one_with[joint];
        }
        joint
    };
    let mut nodes = Vec::with_capacity(laid.joints.len());
    nodes.push(inlet);
    let inlet_name = net.nodes[inlet].id.clone();
    for joint in 1..laid.joints.len() {
        let known = nodes.get(first(joint)).copied();
        nodes.push(known.unwrap_or_else(|| net.node(&format!("{inlet_name}.{joint}"), spot(joint))));
    }
    let bore = job.catalogue().pipe(&laid.stuff.tube).map_or(Length::ZERO, |p| p.inside);
    let bend = least_bend(bore);
    for tube in laid.tubes.iter().filter(|t| t.part != Part::Micro) {
        let (from, to) = (laid.joints[tube.from].at, laid.joints[tube.to].at);
        if nodes[tube.from] == nodes[tube.to] {
            continue;
        }
        let pipe = laid.stuff.of(tube.part);
        let before = net.legs.len();
        net.along(id, nodes[tube.from], nodes[tube.to], pipe, &[from, to]);
        if let Some(leg) = net.legs.get_mut(before) {
            leg.id = id.to_owned();
            leg.bow = tube.part == Part::Turn && tube.length.m() >= 2.0 * bend.m() - 1e-6;
            leg.in_row = matches!(tube.part, Part::Row(_) | Part::Turn | Part::Line);
        }
    }
}

pub(super) fn is_buried(group: &HeadGroup) -> bool {
    matches!(&group.drip, Some(DripLaying::Rows(rows)) if rows.is_buried())
}

/// One line that is snaked: its rows are cut in one piece.
pub(super) fn is_snake(group: &HeadGroup) -> bool {
    matches!(&group.drip, Some(DripLaying::Rows(rows)) if rows.ends == RowEnds::Snake)
}

/// The listed heads of a group on a valve, by their arrangement, as the zone is solved.
fn listed(job: &Job, net: &mut Net, root: usize, group: &HeadGroup, valve: &str, thread: Option<String>) {
    let lots: u32 = group.listed.iter().map(|l| l.count).sum();
    let heads: Vec<u32> = (group.heads().take(lots as usize))
        .filter(|(_, _, on)| *on == Some(valve))
        .map(|(i, _, _)| i)
        .collect();
    if heads.is_empty() {
        return;
    }
    let drip = job.catalogue().nozzle(&group.nozzle).map(|n| (n.kind, tube_of(job.catalogue(), n)));
    let mut lay =
        Listing { net, group, thread, row: group.row.zip(drip.map(|d| d.1)), at_tube: drip_kind(job, group) };
    let feed = group.feed_pipe.as_ref().unwrap_or(&group.pipe).clone();
    match group.arrangement {
        Arrangement::Chain => {
            let first = lay.head(heads[0]);
            lay.net.listed(&group.id, root, first, &feed, group.distance);
            lay.arm(first, &heads[1..], 1.0);
        }
        Arrangement::Middle => lay.middle(root, &heads, &feed, group.distance, "tee"),
        Arrangement::H => {
            let half = heads.len().div_ceil(2);
            let tee = lay.net.node(&format!("{}-{valve}-tee", group.id), Spot::Plain);
            lay.net.listed(&group.id, root, tee, &feed, group.distance);
            let between = group.row_spacing.unwrap_or(group.spacing) / 2.0;
            for (name, part) in [("a", &heads[..half]), ("b", &heads[half..])] {
                if !part.is_empty() {
                    let pipe = group.pipe.clone();
                    lay.middle(tee, part, &pipe, between, name);
                }
            }
        }
    }
}

fn drip_kind(job: &Job, group: &HeadGroup) -> bool {
    let nozzle = job.catalogue().nozzle(&group.nozzle);
    nozzle.is_some_and(|n| n.kind.is_drip() || n.kind == Kind::Stake)
}

struct Listing<'n> {
    net: &'n mut Net,
    group: &'n HeadGroup,
    thread: Option<String>,
    row: Option<(crate::plan::DripRow, PipeId)>,
    at_tube: bool,
}

impl Listing<'_> {
    /// The node of a head; of a row of drip, with its tube.
    fn head(&mut self, index: u32) -> usize {
        let name = format!("{}.{}", self.group.id, index + 1);
        let spot = if self.at_tube { Spot::Plain } else { Spot::Head(self.thread.clone()) };
        let node = self.net.node(&name, spot);
        if let Some((row, tube)) = self.row.clone() {
            let end = self.net.node(&format!("{name}-end"), Spot::Plain);
            let length = row.emitter_spacing * f64::from(row.emitters);
            self.net.listed(&self.group.id, node, end, &tube, length);
        }
        node
    }

    /// Heads one after the other; the first leg may be shorter.
    fn arm(&mut self, from: usize, heads: &[u32], first: f64) {
        let mut at = from;
        for (i, &head) in heads.iter().enumerate() {
            let node = self.head(head);
            let share = if i == 0 { first } else { 1.0 };
            let pipe = self.group.pipe.clone();
            let length = self.group.spacing * share;
            self.net.listed(&self.group.id, at, node, &pipe, length);
            at = node;
        }
    }

    /// A row that is fed in its middle.
    fn middle(&mut self, from: usize, heads: &[u32], feed: &PipeId, length: Length, name: &str) {
        let half = heads.len() / 2;
        let back: Vec<u32> = heads[..half].iter().rev().copied().collect();
        let odd = heads.len() % 2 == 1;
        let middle = if odd {
            self.head(heads[half])
        } else {
            let from = self.net.nodes[from].id.clone();
            self.net.node(&format!("{}-{from}-{name}", self.group.id), Spot::Plain)
        };
        self.net.listed(&self.group.id, from, middle, feed, length);
        let first = if odd { 1.0 } else { 0.5 };
        self.arm(middle, &back, first);
        self.arm(middle, &heads[half + usize::from(odd)..], first);
    }
}

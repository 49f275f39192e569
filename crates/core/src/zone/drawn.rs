//! Laterals of drawn heads: straight lines from the valve's place, each head hung on the nearest
//! part of what is piped already (Prim 1957, "Shortest connection networks"). The shortest pipe
//! that reaches them all; a trench may have to go round, which is why it is drawn as a proposal.

use super::bore::Spot;
use super::grid;
use super::grow::{Builder, Step};
use super::inputs::{DrawnInput, Stage};
use crate::site::Point;
use crate::units::{Length, Pressure};

/// A straight lateral.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Leg {
    /// Where the water comes from.
    pub from: Point,
    /// The head it goes to.
    pub to: Point,
    /// The leg that it hangs on; none: the valve.
    pub parent: Option<usize>,
    /// Place of its head in the list that was asked for.
    pub head: usize,
}

/// The legs that reach heads from a start, parents first. Without a start the first head is one.
pub fn legs(start: Option<Point>, heads: &[Point]) -> Vec<Leg> {
    let origin = start.or(heads.first().copied()).unwrap_or_default();
    // Nearest piped point of every head still open, with the leg that it ends. Without a start only
    // the first head is in reach of the valve.
    let reach = |(i, h): (usize, &Point)| {
        if start.is_some() || i == 0 { h.distance(origin) } else { f64::INFINITY }
    };
    let mut nearest: Vec<(f64, Option<usize>)> = heads.iter().enumerate().map(|h| (reach(h), None)).collect();
    let mut open: Vec<usize> = (0..heads.len()).collect();
    let mut legs: Vec<Leg> = Vec::with_capacity(heads.len());
    while let Some(place) = (0..open.len()).min_by(|a, b| nearest[open[*a]].0.total_cmp(&nearest[open[*b]].0))
    {
        let head = open.remove(place);
        let parent = nearest[head].1;
        let from = parent.map_or(origin, |leg: usize| legs[leg].to);
        let leg = legs.len();
        legs.push(Leg { from, to: heads[head], parent, head });
        for &other in &open {
            let d = heads[other].distance(heads[head]);
            if d < nearest[other].0 {
                nearest[other] = (d, Some(leg));
            }
        }
    }
    legs
}

/// Lays the drawn heads of the valve: on its drawn lateral as far as that reaches, the rest straight.
pub(super) fn lay(b: &mut Builder<'_>, valve_outlet: usize, at_beds: &[Stage]) {
    let inputs = b.inputs;
    let heads = &inputs.drawn;
    if heads.is_empty() {
        return;
    }
    let work = &inputs.lateral;
    let step = |from: usize| if from == 0 { Step::FirstLeg } else { Step::Lateral };
    let nodes = work.lay(b, valve_outlet, step);
    let mut off: Vec<usize> = Vec::new();
    for (i, head) in heads.iter().enumerate() {
        let joint = work.joints.iter().position(|j| j.id == head.id);
        match joint.and_then(|j| nodes[j]) {
            Some(node) => water(b, node, i, at_beds),
            None => off.push(i),
        }
    }
    if work.legs.is_empty() {
        straight(b, valve_outlet, inputs.start, &off, at_beds);
        return;
    }
    // A head that its lateral leaves out hangs on the nearest joint of it.
    for i in off {
        let at = heads[i].spot.at;
        let reached = (0..work.joints.len()).filter(|j| nodes[*j].is_some());
        let near = |j: &usize| work.joints[*j].spot.at.distance(at);
        let Some(joint) = reached.min_by(|a, b| near(a).total_cmp(&near(b))) else {
            continue;
        };
        let from = work.joints[joint].spot;
        let kind = b.leg(heads[i].lateral, Length::from_m(from.at.distance(at)));
        let rise = heads[i].spot.height - from.height;
        let node =
            b.extend(nodes[joint].unwrap_or(valve_outlet), kind, rise, step(joint), heads[i].id.clone());
        water(b, node, i, at_beds);
    }
}

/// Sets a head at a node, behind what stands at every bed.
fn water(b: &mut Builder<'_>, mut node: usize, place: usize, at_beds: &[Stage]) {
    let inputs = b.inputs;
    for stage in at_beds {
        node = b.stage(node, stage);
    }
    let head = &inputs.drawn[place];
    let start = b.network.emitters.len();
    let nozzle = &inputs.waterings[head.watering].nozzle;
    let name = format!("{}.{}", head.head.group, head.head.index + 1);
    match &head.grid {
        Some(grid) => grid::lay(b, node, grid, head.watering, &name),
        None => b.emit(node, name, nozzle, head.watering, (head.arc, head.turned)),
    }
    b.head(head.head.clone(), head.arc, head.watering, start, head.area_m2);
    if let (Some(grid), Some(of)) = (&head.grid, b.heads.last_mut()) {
        let behind = grid.laid.emitters.iter().map(|e| e.behind);
        of.behind = behind.reduce(Pressure::max).unwrap_or_default();
    }
}

/// Lays heads by the shortest straight legs.
fn straight(
    b: &mut Builder<'_>,
    valve_outlet: usize,
    start: Option<Spot>,
    which: &[usize],
    at_beds: &[Stage],
) {
    let heads: Vec<&DrawnInput> = which.iter().map(|i| &b.inputs.drawn[*i]).collect();
    let points: Vec<Point> = heads.iter().map(|h| h.spot.at).collect();
    let legs = legs(start.map(|s| s.at), &points);
    let mut nodes: Vec<usize> = Vec::with_capacity(legs.len());
    for leg in &legs {
        let head = heads[leg.head];
        let (from, step, bore) = match leg.parent {
            Some(parent) => (nodes[parent], Step::Lateral, head.lateral),
            None => (valve_outlet, Step::FirstLeg, head.feed),
        };
        let origin = leg.parent.map_or(start, |p| Some(heads[legs[p].head].spot));
        // Where the valve has no place, the group says how far off it is.
        let (length, rise) = match origin {
            Some(origin) => (Length::from_m(leg.from.distance(leg.to)), head.spot.height - origin.height),
            None => (head.distance, Length::ZERO),
        };
        let link = b.leg(bore, length);
        let node = b.extend(from, link, rise, step, head.id.clone());
        nodes.push(node);
        water(b, node, which[leg.head], at_beds);
    }
}

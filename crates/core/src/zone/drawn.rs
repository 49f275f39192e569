//! Laterals of drawn heads: straight lines from the valve's place, each head hung on the nearest
//! part of what is piped already (Prim 1957, "Shortest connection networks"). The shortest pipe
//! that reaches them all; a trench may have to go round, which is why it is drawn as a proposal.

use super::grow::{Builder, Step};
use crate::site::Point;
use crate::units::Length;

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
        if start.is_some() || i == 0 {
            h.distance(origin)
        } else {
            f64::INFINITY
        }
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
        legs.push(Leg {
            from,
            to: heads[head],
            parent,
            head,
        });
        for &other in &open {
            let d = heads[other].distance(heads[head]);
            if d < nearest[other].0 {
                nearest[other] = (d, Some(leg));
            }
        }
    }
    legs
}

/// Lays the drawn heads of the valve.
pub(super) fn lay(b: &mut Builder<'_>, valve_outlet: usize) {
    let inputs = b.inputs;
    let heads = &inputs.drawn;
    if heads.is_empty() {
        return;
    }
    let points: Vec<Point> = heads.iter().map(|h| h.spot.at).collect();
    let legs = legs(inputs.start.map(|s| s.at), &points);
    let mut nodes: Vec<usize> = Vec::with_capacity(legs.len());
    for leg in &legs {
        let head = &heads[leg.head];
        let (from, step, bore) = match leg.parent {
            Some(parent) => (nodes[parent], Step::Lateral, head.lateral),
            None => (valve_outlet, Step::FirstLeg, head.feed),
        };
        let origin = leg
            .parent
            .map_or(inputs.start, |p| Some(heads[legs[p].head].spot));
        // Where the valve has no place, the group says how far off it is.
        let (length, rise) = match origin {
            Some(origin) => (
                Length::from_m(leg.from.distance(leg.to)),
                head.spot.height - origin.height,
            ),
            None => (head.distance, Length::ZERO),
        };
        let link = b.leg(bore, length);
        let node = b.extend(from, link, rise, step, head.id.clone());
        nodes.push(node);
        let start = b.network.emitters.len();
        let nozzle = &inputs.waterings[head.watering].nozzle;
        let name = format!("{}.{}", head.head.group, head.head.index + 1);
        b.emit(node, name, nozzle, head.watering, head.arc);
        b.head(head.head.clone(), head.arc, head.watering, start, head.area_m2);
    }
}

//! Laterals of drawn heads: straight lines from the valve's place, each head hung on the nearest
//! part of what is piped already (Prim 1957, "Shortest connection networks"). The shortest pipe
//! that reaches them all; a trench may have to go round, which is why it is drawn as a proposal.

use super::build::{Builder, Head, Step, pipe_kind};
use crate::plan::{DrawnHead, HeadGroup, HeadRef, Plan, Valve};
use crate::site::{Point, height_at};
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

/// The drawn heads on a valve, in the plan's order.
pub fn drawn_on<'a>(plan: &'a Plan, valve: &str) -> Vec<(&'a HeadGroup, u32, &'a DrawnHead)> {
    let on = |g: &'a HeadGroup| {
        let listed: u32 = g.lots.iter().map(|l| l.count).sum();
        g.drawn.iter().zip(listed..).map(move |(h, i)| (g, i, h))
    };
    plan.groups
        .iter()
        .flat_map(on)
        .filter(|(_, _, h)| h.valve.as_deref() == Some(valve))
        .collect()
}

/// Lays the drawn heads of a valve.
pub(super) fn lay(b: &mut Builder<'_>, valve_outlet: usize, valve: &Valve, body: Option<Pressure>) {
    let (plan, catalogue) = (b.plan, b.catalogue);
    let heads = drawn_on(plan, &valve.id);
    if heads.is_empty() {
        return;
    }
    let start = plan.valve_point(valve);
    let spots = plan.site.heights();
    let ground = |at: Point| height_at(&spots, at).unwrap_or_default();
    let points: Vec<Point> = heads.iter().map(|(_, _, h)| h.at).collect();
    let legs = legs(start, &points);
    let mut nodes: Vec<usize> = Vec::with_capacity(legs.len());
    for leg in &legs {
        let (group, index, head) = heads[leg.head];
        let (Some(nozzle), Some(lateral)) = (catalogue.nozzle(&group.nozzle), catalogue.pipe(&group.pipe))
        else {
            nodes.push(valve_outlet);
            continue;
        };
        let first = leg.parent.is_none();
        let pipe = if first {
            group
                .feed_pipe
                .as_ref()
                .and_then(|p| catalogue.pipe(p))
                .unwrap_or(lateral)
        } else {
            lateral
        };
        // Where the valve has no place, the group says how far off it is.
        let length = if first && start.is_none() {
            group.distance
        } else {
            Length::from_m(leg.from.distance(leg.to))
        };
        let rise = if first && start.is_none() {
            Length::ZERO
        } else {
            ground(leg.to) - ground(leg.from)
        };
        let from = leg.parent.map_or(valve_outlet, |p| nodes[p]);
        let step = if first { Step::FirstLeg } else { Step::Lateral };
        let node = b.extend(
            from,
            pipe_kind(length, pipe.inside, pipe.c, plan.rules.fittings),
            rise,
            step,
            head.id.clone(),
        );
        nodes.push(node);
        let kind = catalogue.kind(nozzle.kind);
        let emitter = b.network.emitters.len();
        b.emit(
            node,
            format!("{}.{}", group.id, index + 1),
            nozzle,
            kind,
            head.arc,
            body,
        );
        let area_m2 = to_water(plan, group, head, nozzle.radius.unwrap_or(group.spacing));
        b.heads.push(Head {
            head: HeadRef {
                group: group.id.clone(),
                index,
            },
            arc: head.arc,
            nozzle,
            kind,
            emitters: emitter..emitter + 1,
            area_m2,
        });
    }
}

/// Ground a head is to water, m2: its share, by the sector it throws over, of the drawn area; where
/// none is drawn, head to head: a square as wide as its throw, by its arc.
fn to_water(plan: &Plan, group: &HeadGroup, head: &DrawnHead, full: Length) -> f64 {
    let sector =
        |h: &DrawnHead, full: Length| h.radius.unwrap_or(full).m().powi(2) * f64::from(h.arc) / 360.0;
    let mine = sector(head, full);
    let Some(area) = group.area.as_deref().and_then(|a| plan.site.area(a)) else {
        return mine;
    };
    let all: f64 = plan
        .groups
        .iter()
        .filter(|g| g.area == group.area)
        .flat_map(|g| {
            let full = plan
                .catalogue()
                .nozzle(&g.nozzle)
                .and_then(|n| n.radius)
                .unwrap_or(g.spacing);
            g.drawn.iter().map(move |h| sector(h, full))
        })
        .sum();
    // Until heads cover the area, each waters no more than its own square.
    (area.shape.area_m2() * mine / all.max(1e-9)).min(mine)
}

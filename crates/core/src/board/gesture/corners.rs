//! Corners and edges of an outline.

use super::super::draft::{Draft, Found};
use super::GestureFault;
use crate::site::{self, Point, Vertex};

pub(super) fn no_corner(index: usize) -> GestureFault {
    GestureFault::new(format!("corner {} does not exist", index.saturating_add(1)))
}

pub(super) fn corners(
    d: &mut Draft,
    id: &str,
    ring: usize,
    change: impl FnOnce(&mut Vec<Vertex>, bool) -> Result<(), GestureFault>,
) -> Result<(), GestureFault> {
    if let Ok(Found::Leg(leg)) = d.find(id) {
        return super::pipes::points(d, &leg, change);
    }
    let mut thing = d.thing(id)?;
    let Some((vertices, closed)) = thing.rings_mut(ring) else {
        return Err(GestureFault::at(id, "does not have that edge"));
    };
    change(vertices, closed).map_err(|e| GestureFault { about: Some(id.to_owned()), ..e })?;
    d.put(thing)
}

pub(super) fn ring_of(
    d: &mut Draft,
    id: &str,
    ring: usize,
    change: impl FnOnce(&site::Outline) -> Result<site::Outline, String>,
) -> Result<(), GestureFault> {
    let (thing, mut shape) = d.shape(id)?;
    let outline = shape.ring_mut(ring).ok_or_else(|| GestureFault::at(id, "does not have that edge"))?;
    *outline = change(outline).map_err(|e| GestureFault::at(id, e))?;
    d.put_shape(thing, shape)
}

pub(super) fn edge_ends(v: &[Vertex], closed: bool, edge: usize) -> Result<(usize, usize), GestureFault> {
    let count = if closed { v.len() } else { v.len().saturating_sub(1) };
    if edge < count {
        Ok((edge, (edge + 1) % v.len()))
    } else {
        Err(GestureFault::new("that edge does not exist"))
    }
}

/// A corner on an arc parts it in two arcs of the same circle; elsewhere the edge goes through it.
pub(super) fn insert_corner(
    v: &mut Vec<Vertex>,
    closed: bool,
    edge: usize,
    at: Point,
) -> Result<(), GestureFault> {
    let (a, b) = edge_ends(v, closed, edge)?;
    let line = site::Path(vec![v[a], v[b]]);
    let Some(e) = line.edges().next() else {
        return Err(GestureFault::new("that edge does not exist"));
    };
    let new = match e.centre() {
        Some(centre) => {
            let turned = (centre.direction_to(at) - centre.direction_to(e.from)).to_radians();
            let full = e.angle();
            let share = (if full >= 0.0 {
                turned.rem_euclid(std::f64::consts::TAU)
            } else {
                turned.rem_euclid(std::f64::consts::TAU) - std::f64::consts::TAU
            }) / full;
            let share = if (0.01..=0.99).contains(&share) { share } else { 0.5 };
            v[a].bulge = e.bulge_of(share);
            Vertex { at: e.at(share), bulge: e.bulge_of(1.0 - share) }
        }
        None => Vertex { at, bulge: 0.0 },
    };
    v.insert(edge + 1, new);
    Ok(())
}

//! Each gesture on a draft of the plan.

use super::super::draft::{Draft, Found};
use super::super::heads;
use super::corners::{corners, edge_ends, insert_corner, no_corner, ring_of};
use super::pipes;
use super::whole::{copy, each, join, sound, spread};
use super::{Gesture, GestureFault};
use crate::catalogue::Catalogue;
use crate::job::Job;
use crate::plan::{DrawnHead, Edit, HeadGroup};
use crate::site::{self, Shape, SiteObject};
use crate::units::UnitSystem;

impl Gesture {
    /// The edit that does it on this plan.
    ///
    /// # Errors
    /// Why it can't be done, and where an outline crosses itself; other figures that can't be used
    /// are found when the edit is applied.
    pub fn edit(&self, job: &Job) -> Result<Edit, GestureFault> {
        let mut draft = Draft::of(job);
        self.work(&mut draft, job.units, job.catalogue())?;
        draft.finish()
    }

    fn work(&self, d: &mut Draft, units: UnitSystem, catalogue: &Catalogue) -> Result<(), GestureFault> {
        match self {
            Self::Add { thing } => {
                d.fresh(&thing.id)?;
                d.put(thing.clone())
            }
            Self::Remove { ids } => {
                // Pipe may go with what was taken off before it; what was never there is told.
                each(ids, |id| d.find(id).map(|_| ()))?;
                each(ids, |id| match d.find(id) {
                    Ok(found) => remove(d, id, found),
                    Err(_) => Ok(()),
                })
            }
            Self::Move { ids, motion } => {
                sound(*motion)?;
                each(ids, |id| d.place(id, *motion))
            }
            Self::Copy { ids, new, motion } => copy(d, ids, new, *motion),
            Self::Corner { id, ring, index, to } => corners(d, id, *ring, |v, _| {
                v.get_mut(*index).ok_or_else(|| no_corner(*index))?.at = *to;
                Ok(())
            }),
            Self::InsertCorner { id, ring, edge, at } => {
                corners(d, id, *ring, |v, closed| insert_corner(v, closed, *edge, *at))
            }
            Self::RemoveCorner { id, ring, index } => corners(d, id, *ring, |v, closed| {
                let least = if closed { 3 } else { 2 };
                if *index >= v.len() {
                    return Err(no_corner(*index));
                }
                if v.len() <= least {
                    return Err(GestureFault::new(format!(
                        "at least {least} corners are needed. Delete the whole object instead"
                    )));
                }
                let gone = v.remove(*index);
                // The two edges become one straight one.
                let n = v.len();
                if gone.bulge != 0.0 || v[(*index + n - 1) % n].bulge != 0.0 {
                    v[(*index + n - 1) % n].bulge = 0.0;
                }
                Ok(())
            }),
            Self::Edge { id, ring, edge, by } => corners(d, id, *ring, |v, closed| {
                let (a, b) = edge_ends(v, closed, *edge)?;
                v[a].at = v[a].at + *by;
                v[b].at = v[b].at + *by;
                Ok(())
            }),
            Self::EdgeLength { id, ring, edge, length } => corners(d, id, *ring, |v, closed| {
                let (a, b) = edge_ends(v, closed, *edge)?;
                if length.m() <= 0.0 {
                    return Err(GestureFault::new("an edge must be longer than zero"));
                }
                let (from, to) = (v[a].at, v[b].at);
                let k = length.m() / site::Path(vec![v[a], v[b]]).length();
                v[b].at = from + (to - from) * k;
                Ok(())
            }),
            Self::Bend { id, ring, edge, rise } => corners(d, id, *ring, |v, closed| {
                let (a, b) = edge_ends(v, closed, *edge)?;
                let chord = v[a].at.distance(v[b].at);
                v[a].bulge = if chord > 0.0 { 2.0 * rise.m() / chord } else { 0.0 };
                Ok(())
            }),
            Self::Chamfer { id, ring, index, cut } => {
                ring_of(d, id, *ring, |r| site::chamfer(r, *index, *cut).map_err(|e| e.show(units)))
            }
            Self::Round { id, ring, index, radius } => {
                ring_of(d, id, *ring, |r| site::round(r, *index, *radius).map_err(|e| e.show(units)))
            }
            Self::Split { id, from, to, new } => {
                let (thing, shape) = d.shape(id)?;
                let pieces =
                    site::split(&shape, *from, *to).map_err(|e| GestureFault::at(id, e.to_string()))?;
                spread(d, thing, pieces, new)
            }
            Self::Join { ids } => join(d, ids),
            Self::CutOut { id, by, new } => {
                let (thing, shape) = d.shape(id)?;
                let cutters = by
                    .iter()
                    .filter(|c| *c != id)
                    .map(|c| d.shape(c).map(|s| s.1))
                    .collect::<Result<Vec<_>, _>>()?;
                let pieces = site::cut(&shape, &cutters.iter().collect::<Vec<_>>())
                    .map_err(|e| GestureFault::at(id, e.to_string()))?;
                spread(d, thing, pieces, new)
            }
            Self::Offset { id, distance, new } => {
                let (mut thing, shape) = d.shape(id)?;
                let rings = site::offset(&shape.outline, *distance)
                    .map_err(|e| GestureFault::at(id, e.to_string()))?;
                thing.id.clone_from(new);
                if let Some(shape) = thing.shape_mut() {
                    *shape = Shape::plain(rings.into_iter().next().unwrap_or_default());
                }
                d.put_above(thing, id)
            }
            Self::Strip { id, ring, edge, width, new, kind } => {
                let (_, shape) = d.shape(id)?;
                let outline = shape
                    .rings()
                    .nth(*ring)
                    .ok_or_else(|| GestureFault::at(id, "that edge does not exist"))?;
                let strip =
                    site::strip(outline, *edge, *width).map_err(|e| GestureFault::at(id, e.to_string()))?;
                d.put_above(kind.thing(new, Shape::plain(strip)), id)
            }
            Self::PlaceHead { group, area, nozzle, head } => {
                d.fresh(&head.id)?;
                let known = heads::known(nozzle, catalogue)?;
                d.group_for(known, area.as_deref(), group, None, head.clone())
            }
            Self::SetHead { id, at, nozzle, group, valve } => {
                d.fresh(id)?;
                let known = heads::known(nozzle, catalogue)?;
                let stand = heads::stand(&d.plan.site, *at);
                let arc = stand.arc.clamp(known.arcs.0, known.arcs.1);
                let head = DrawnHead {
                    id: id.clone(),
                    at: *at,
                    arc,
                    facing: stand.facing,
                    radius: None,
                    valve: valve.clone(),
                    locked: false,
                };
                d.group_for(known, stand.area.as_deref(), group, None, head)
            }
            Self::TurnHead { id, facing, arc } => {
                let Found::Head(group, head) = d.find(id)? else {
                    return Err(GestureFault::at(id, "is not a head"));
                };
                d.put_head(&group, DrawnHead { facing: facing.rem_euclid(360.0), arc: *arc, ..head })
            }
            Self::ThrowHead { ids, radius } => each(ids, |id| {
                let Found::Head(group, head) = d.find(id)? else {
                    return Err(GestureFault::at(id, "is not a head"));
                };
                let full =
                    d.plan.group(&group).and_then(|g| catalogue.nozzle(&g.nozzle)).and_then(|n| n.radius);
                // Full throw is not a setting.
                let radius = radius.filter(|r| full.is_none_or(|f| (r.m() - f.m()).abs() > 1e-6));
                d.put_head(&group, DrawnHead { radius, ..head })
            }),
            Self::ChangeNozzle { ids, nozzle, group } => {
                let new = heads::known(nozzle, catalogue)?;
                each(ids, |id| {
                    let Found::Head(from, head) = d.find(id)? else {
                        return Err(GestureFault::at(id, "is not a head"));
                    };
                    let like = d.plan.group(&from).cloned().ok_or_else(|| GestureFault::gone(id))?;
                    if like.nozzle == *nozzle {
                        return Ok(());
                    }
                    d.remove_head(&from, id)?;
                    let arc = head.arc.clamp(new.arcs.0, new.arcs.1);
                    d.group_for(
                        new,
                        like.area.as_deref(),
                        group,
                        Some(&like),
                        DrawnHead { radius: None, arc, ..head },
                    )
                })
            }
            Self::HeadsToValve { ids, valve } => each(ids, |id| {
                let Found::Head(group, head) = d.find(id)? else {
                    return Err(GestureFault::at(id, "is not a head"));
                };
                d.put_head(&group, DrawnHead { valve: valve.clone(), ..head })
            }),
            Self::LockHeads { ids, locked } => each(ids, |id| {
                let Found::Head(group, head) = d.find(id)? else {
                    return Err(GestureFault::at(id, "is not a head"));
                };
                d.put_head(&group, DrawnHead { locked: *locked, ..head })
            }),
            Self::LayPipe { of, way, new } => pipes::lay(d, of, way, new),
            Self::North { degrees } => {
                d.change(Edit::SetNorth(crate::plan::SetNorth { degrees: degrees.rem_euclid(360.0) }))
            }
        }
    }
}

fn remove(d: &mut Draft, id: &str, found: Found) -> Result<(), GestureFault> {
    match found {
        Found::Thing(_) => {
            // Drip goes with the ground that it is laid on; heads stand by themselves.
            let laid = |g: &&HeadGroup| g.drip.is_some() && g.area.as_deref() == Some(id);
            let gone: Vec<String> = d.plan.groups.iter().filter(laid).map(|g| g.id.clone()).collect();
            for group in gone {
                d.change(Edit::remove::<HeadGroup>(group))?;
            }
            d.change(Edit::remove::<SiteObject>(id.to_owned()))
        }
        Found::Head(group, _) => d.remove_head(&group, id),
        Found::Joint(joint) => pipes::remove_joint(d, &joint),
        Found::Leg(leg) => pipes::remove_leg(d, &leg),
    }
}

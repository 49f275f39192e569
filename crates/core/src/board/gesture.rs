use super::draft::{Draft, Found, moved_head};
use super::heads;
use crate::catalogue::Catalogue;
use crate::job::Job;
use crate::plan::{DrawnHead, Edit};
use crate::site::{
    self, Area, AreaKind, DryKind, Form, KeepDry, Motion, ObjectKind, Point, Shape, SiteObject, Vertex,
};
use crate::units::{Length, UnitSystem};
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
            Self::Area(kind) => ObjectKind::Area(Area {
                kind,
                shape,
                ..Area::default()
            }),
            Self::Dry(kind) => ObjectKind::Dry(KeepDry {
                kind,
                height: None,
                form: Form::Region(shape),
            }),
        };
        SiteObject {
            id: id.to_owned(),
            name: String::new(),
            what,
        }
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
        Self {
            message: message.into(),
            about: None,
            place: None,
        }
    }
    pub(super) fn at(id: &str, message: impl Into<String>) -> Self {
        Self {
            message: message.into(),
            about: Some(id.to_owned()),
            place: None,
        }
    }
    pub(super) fn gone(id: &str) -> Self {
        Self::at(id, "is not on the board any more")
    }
}

/// The most that can be picked at once.
const MOST_PICKED: usize = 5_000;

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
            Self::Remove { ids } => each(ids, |id| match d.find(id)? {
                Found::Thing(_) => d.change(Edit::remove::<SiteObject>(id.to_owned())),
                Found::Head(group, _) => d.remove_head(&group, id),
            }),
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
                        "{least} corners are the least: remove the whole thing instead"
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
            Self::EdgeLength {
                id,
                ring,
                edge,
                length,
            } => corners(d, id, *ring, |v, closed| {
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
            Self::Chamfer { id, ring, index, cut } => ring_of(d, id, *ring, |r| {
                site::chamfer(r, *index, *cut).map_err(|e| e.show(units))
            }),
            Self::Round {
                id,
                ring,
                index,
                radius,
            } => ring_of(d, id, *ring, |r| {
                site::round(r, *index, *radius).map_err(|e| e.show(units))
            }),
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
            Self::Strip {
                id,
                ring,
                edge,
                width,
                new,
                kind,
            } => {
                let (_, shape) = d.shape(id)?;
                let outline = shape
                    .rings()
                    .nth(*ring)
                    .ok_or_else(|| GestureFault::at(id, "there is no such edge"))?;
                let strip =
                    site::strip(outline, *edge, *width).map_err(|e| GestureFault::at(id, e.to_string()))?;
                d.put_above(kind.thing(new, Shape::plain(strip)), id)
            }
            Self::PlaceHead {
                group,
                area,
                nozzle,
                head,
            } => {
                d.fresh(&head.id)?;
                let known = heads::known(nozzle, catalogue)?;
                d.group_for(known, area.as_deref(), group, None, head.clone())
            }
            Self::SetHead {
                id,
                at,
                nozzle,
                group,
                valve,
            } => {
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
                    return Err(GestureFault::at(id, "is no head"));
                };
                d.put_head(
                    &group,
                    DrawnHead {
                        facing: facing.rem_euclid(360.0),
                        arc: *arc,
                        ..head
                    },
                )
            }
            Self::ThrowHead { ids, radius } => each(ids, |id| {
                let Found::Head(group, head) = d.find(id)? else {
                    return Err(GestureFault::at(id, "is no head"));
                };
                let full = d
                    .plan
                    .group(&group)
                    .and_then(|g| catalogue.nozzle(&g.nozzle))
                    .and_then(|n| n.radius);
                // Full throw is not a setting.
                let radius = radius.filter(|r| full.is_none_or(|f| (r.m() - f.m()).abs() > 1e-6));
                d.put_head(&group, DrawnHead { radius, ..head })
            }),
            Self::ChangeNozzle { ids, nozzle, group } => {
                let new = heads::known(nozzle, catalogue)?;
                each(ids, |id| {
                    let Found::Head(from, head) = d.find(id)? else {
                        return Err(GestureFault::at(id, "is no head"));
                    };
                    let like = d
                        .plan
                        .group(&from)
                        .cloned()
                        .ok_or_else(|| GestureFault::gone(id))?;
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
                        DrawnHead {
                            radius: None,
                            arc,
                            ..head
                        },
                    )
                })
            }
            Self::HeadsToValve { ids, valve } => each(ids, |id| {
                let Found::Head(group, head) = d.find(id)? else {
                    return Err(GestureFault::at(id, "is no head"));
                };
                d.put_head(
                    &group,
                    DrawnHead {
                        valve: valve.clone(),
                        ..head
                    },
                )
            }),
            Self::LockHeads { ids, locked } => each(ids, |id| {
                let Found::Head(group, head) = d.find(id)? else {
                    return Err(GestureFault::at(id, "is no head"));
                };
                d.put_head(
                    &group,
                    DrawnHead {
                        locked: *locked,
                        ..head
                    },
                )
            }),
            Self::North { degrees } => d.change(Edit::SetNorth(crate::plan::SetNorth {
                degrees: degrees.rem_euclid(360.0),
            })),
        }
    }
}

fn each(ids: &[String], mut each: impl FnMut(&str) -> Result<(), GestureFault>) -> Result<(), GestureFault> {
    if ids.len() > MOST_PICKED {
        return Err(GestureFault::new(format!("at most {MOST_PICKED} things at once")));
    }
    let mut seen = std::collections::HashSet::new();
    ids.iter()
        .filter(|id| seen.insert(id.as_str()))
        .try_for_each(|id| each(id))
}

fn sound(motion: Motion) -> Result<(), GestureFault> {
    if motion.is_sound() {
        Ok(())
    } else {
        Err(GestureFault::new(
            "that is no way to move: the figures must be numbers, and a mirror needs two points that are \
                apart",
        ))
    }
}

fn no_corner(index: usize) -> GestureFault {
    GestureFault::new(format!("there is no corner {}", index.saturating_add(1)))
}

fn copy(d: &mut Draft, ids: &[String], new: &[String], motion: Motion) -> Result<(), GestureFault> {
    sound(motion)?;
    if ids.len() != new.len() {
        return Err(GestureFault::new("every copy needs a name of its own"));
    }
    let mut names = new.iter();
    each(ids, |id| {
        let name = names.next().ok_or_else(|| GestureFault::gone(id))?;
        d.fresh(name)?;
        match d.find(id)? {
            Found::Thing(thing) => d.put(SiteObject {
                id: name.clone(),
                ..thing.moved(motion)
            }),
            Found::Head(group, head) => d.put_head(
                &group,
                DrawnHead {
                    id: name.clone(),
                    ..moved_head(&head, motion)
                },
            ),
        }
    })
}

fn corners(
    d: &mut Draft,
    id: &str,
    ring: usize,
    change: impl FnOnce(&mut Vec<Vertex>, bool) -> Result<(), GestureFault>,
) -> Result<(), GestureFault> {
    let mut thing = d.thing(id)?;
    let Some((vertices, closed)) = thing.rings_mut(ring) else {
        return Err(GestureFault::at(id, "has no such edge"));
    };
    change(vertices, closed).map_err(|e| GestureFault {
        about: Some(id.to_owned()),
        ..e
    })?;
    d.put(thing)
}

fn ring_of(
    d: &mut Draft,
    id: &str,
    ring: usize,
    change: impl FnOnce(&site::Outline) -> Result<site::Outline, String>,
) -> Result<(), GestureFault> {
    let (thing, mut shape) = d.shape(id)?;
    let outline = shape
        .ring_mut(ring)
        .ok_or_else(|| GestureFault::at(id, "has no such edge"))?;
    *outline = change(outline).map_err(|e| GestureFault::at(id, e))?;
    d.put_shape(thing, shape)
}

fn edge_ends(v: &[Vertex], closed: bool, edge: usize) -> Result<(usize, usize), GestureFault> {
    let count = if closed {
        v.len()
    } else {
        v.len().saturating_sub(1)
    };
    if edge < count {
        Ok((edge, (edge + 1) % v.len()))
    } else {
        Err(GestureFault::new("there is no such edge"))
    }
}

/// A corner on an arc parts it in two arcs of the same circle; elsewhere the edge goes through it.
fn insert_corner(v: &mut Vec<Vertex>, closed: bool, edge: usize, at: Point) -> Result<(), GestureFault> {
    let (a, b) = edge_ends(v, closed, edge)?;
    let line = site::Path(vec![v[a], v[b]]);
    let Some(e) = line.edges().next() else {
        return Err(GestureFault::new("there is no such edge"));
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
            let share = if (0.01..=0.99).contains(&share) {
                share
            } else {
                0.5
            };
            v[a].bulge = e.bulge_of(share);
            Vertex {
                at: e.at(share),
                bulge: e.bulge_of(1.0 - share),
            }
        }
        None => Vertex { at, bulge: 0.0 },
    };
    v.insert(edge + 1, new);
    Ok(())
}

/// The first piece stays the thing, the others become things like it.
fn spread(d: &mut Draft, thing: SiteObject, pieces: Vec<Shape>, new: &[String]) -> Result<(), GestureFault> {
    if pieces.len() > new.len() + 1 {
        return Err(GestureFault::at(
            &thing.id,
            format!("would fall into {} pieces: cut it in smaller steps", pieces.len()),
        ));
    }
    let mut pieces = pieces.into_iter();
    if let Some(first) = pieces.next() {
        d.put_shape(thing.clone(), first)?;
    }
    for (shape, id) in pieces.zip(new) {
        let mut other = SiteObject {
            id: id.clone(),
            ..thing.clone()
        };
        if let Some(old) = other.shape_mut() {
            *old = shape;
        }
        d.put_above(other, &thing.id)?;
    }
    Ok(())
}

fn join(d: &mut Draft, ids: &[String]) -> Result<(), GestureFault> {
    let [first, rest @ ..] = ids else {
        return Err(GestureFault::new("pick two or more to join"));
    };
    if rest.is_empty() {
        return Err(GestureFault::new("pick two or more to join"));
    }
    let (thing, mut shape) = d.shape(first)?;
    // A piece may touch only one that comes later in the list.
    let mut waiting = rest
        .iter()
        .filter(|id| *id != first)
        .map(|id| d.shape(id))
        .collect::<Result<Vec<_>, _>>()?;
    while !waiting.is_empty() {
        let met = waiting.iter().enumerate().find_map(|(i, (other, s))| {
            let same = std::mem::discriminant(&other.what) == std::mem::discriminant(&thing.what);
            same.then(|| site::join(&shape, s).ok())
                .flatten()
                .map(|joined| (i, joined))
        });
        let Some((i, joined)) = met else {
            let (other, _) = &waiting[0];
            let why = if std::mem::discriminant(&other.what) == std::mem::discriminant(&thing.what) {
                "they do not touch: only pieces that touch or overlap can be joined"
            } else {
                "watered ground and what must stay dry can't be joined"
            };
            return Err(GestureFault::at(&other.id, why));
        };
        shape = joined;
        let (gone, _) = waiting.remove(i);
        d.change(Edit::remove::<SiteObject>(gone.id))?;
    }
    d.put_shape(thing, shape)
}

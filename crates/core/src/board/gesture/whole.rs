//! Things as a whole.

use super::super::draft::{Draft, Found, moved_head};
use super::GestureFault;
use crate::plan::{DrawnHead, Edit};
use crate::site::{self, Motion, Shape, SiteObject};

/// The most that can be picked at once.
const MOST_PICKED: usize = 5_000;

pub(super) fn each(
    ids: &[String],
    mut each: impl FnMut(&str) -> Result<(), GestureFault>,
) -> Result<(), GestureFault> {
    if ids.len() > MOST_PICKED {
        return Err(GestureFault::new(format!("at most {MOST_PICKED} objects at once")));
    }
    let mut seen = std::collections::HashSet::new();
    ids.iter().filter(|id| seen.insert(id.as_str())).try_for_each(|id| each(id))
}

pub(super) fn sound(motion: Motion) -> Result<(), GestureFault> {
    if motion.is_sound() {
        Ok(())
    } else {
        Err(GestureFault::new("enter numbers to move; mirroring needs two separate points"))
    }
}

pub(super) fn copy(
    d: &mut Draft,
    ids: &[String],
    new: &[String],
    motion: Motion,
) -> Result<(), GestureFault> {
    sound(motion)?;
    if ids.len() != new.len() {
        return Err(GestureFault::new("every copy needs a name of its own"));
    }
    let mut names = new.iter();
    each(ids, |id| {
        let name = names.next().ok_or_else(|| GestureFault::gone(id))?;
        d.fresh(name)?;
        match d.find(id)? {
            Found::Thing(thing) => d.put(SiteObject { id: name.clone(), ..thing.moved(motion) }),
            Found::Head(group, head) => {
                d.put_head(&group, DrawnHead { id: name.clone(), ..moved_head(&head, motion) })
            }
            Found::Joint(_) | Found::Leg(_) => Err(GestureFault::at(
                id,
                "is pipe and cannot be copied. Copy what it connects to and draw pipe to it",
            )),
        }
    })
}

/// The first piece stays the thing, the others become things like it.
pub(super) fn spread(
    d: &mut Draft,
    thing: SiteObject,
    pieces: Vec<Shape>,
    new: &[String],
) -> Result<(), GestureFault> {
    if pieces.len() > new.len() + 1 {
        return Err(GestureFault::at(
            &thing.id,
            format!("would split into {} pieces. Cut in smaller steps", pieces.len()),
        ));
    }
    let mut pieces = pieces.into_iter();
    if let Some(first) = pieces.next() {
        d.put_shape(thing.clone(), first)?;
    }
    for (shape, id) in pieces.zip(new) {
        let mut other = SiteObject { id: id.clone(), ..thing.clone() };
        if let Some(old) = other.shape_mut() {
            *old = shape;
        }
        d.put_above(other, &thing.id)?;
    }
    Ok(())
}

pub(super) fn join(d: &mut Draft, ids: &[String]) -> Result<(), GestureFault> {
    let [first, rest @ ..] = ids else {
        return Err(GestureFault::new("select two or more areas to join"));
    };
    if rest.is_empty() {
        return Err(GestureFault::new("select two or more areas to join"));
    }
    let (thing, mut shape) = d.shape(first)?;
    // A piece may touch only one that comes later in the list.
    let mut waiting =
        rest.iter().filter(|id| *id != first).map(|id| d.shape(id)).collect::<Result<Vec<_>, _>>()?;
    while !waiting.is_empty() {
        let met = waiting.iter().enumerate().find_map(|(i, (other, s))| {
            let same = std::mem::discriminant(&other.what) == std::mem::discriminant(&thing.what);
            same.then(|| site::join(&shape, s).ok()).flatten().map(|joined| (i, joined))
        });
        let Some((i, joined)) = met else {
            let (other, _) = &waiting[0];
            let why = if std::mem::discriminant(&other.what) == std::mem::discriminant(&thing.what) {
                "only areas that touch or overlap can be joined"
            } else {
                "an irrigated area cannot be joined with a no-spray area"
            };
            return Err(GestureFault::at(&other.id, why));
        };
        shape = joined;
        let (gone, _) = waiting.remove(i);
        d.change(Edit::remove::<SiteObject>(gone.id))?;
    }
    d.put_shape(thing, shape)
}

use super::GestureFault;
use crate::catalogue::Nozzle;
use crate::plan::{DrawnHead, Edit, HeadGroup, Joint, PipeLeg, Plan, replay};
use crate::site::{Motion, Shape, ShapeFault, SiteObject};
use crate::units::{Length, UnitSystem};

/// A plan on which edits are tried one after the other while a gesture is worked out.
pub(super) struct Draft {
    pub plan: Plan,
    edits: Vec<Edit>,
}

/// What an id stands for.
pub(super) enum Found {
    Thing(SiteObject),
    Head(String, DrawnHead),
    Joint(Joint),
    Leg(PipeLeg),
}

impl Draft {
    pub fn of(plan: &Plan) -> Self {
        Self { plan: plan.clone(), edits: Vec::new() }
    }

    pub fn change(&mut self, edit: Edit) -> Result<(), GestureFault> {
        if let Edit::PutObject(put) = &edit {
            sound(&put.part, self.plan.units)?;
        }
        replay(&mut self.plan, &edit).map_err(|e| GestureFault::new(e.to_string()))?;
        self.edits.push(edit);
        Ok(())
    }

    pub fn find(&self, id: &str) -> Result<Found, GestureFault> {
        if let Some(thing) = self.plan.site.object(id) {
            return Ok(Found::Thing(thing.clone()));
        }
        if let Some((group, head)) = self.plan.drawn_head(id) {
            return Ok(Found::Head(group.id.clone(), head.clone()));
        }
        if let Some(joint) = self.plan.piping.joint(id) {
            return Ok(Found::Joint(joint.clone()));
        }
        let leg = self.plan.piping.leg(id).cloned();
        leg.map(Found::Leg).ok_or_else(|| GestureFault::gone(id))
    }

    pub fn thing(&self, id: &str) -> Result<SiteObject, GestureFault> {
        self.plan.site.object(id).cloned().ok_or_else(|| GestureFault::gone(id))
    }

    pub fn shape(&self, id: &str) -> Result<(SiteObject, Shape), GestureFault> {
        let thing = self.thing(id)?;
        let shape = thing
            .shape()
            .cloned()
            .ok_or_else(|| GestureFault::at(id, format!("{} has no area", thing.title())))?;
        Ok((thing, shape))
    }

    pub fn put(&mut self, thing: SiteObject) -> Result<(), GestureFault> {
        self.change(Edit::put(thing))
    }

    /// A new thing, above another in the drawing.
    pub fn put_above(&mut self, thing: SiteObject, below: &str) -> Result<(), GestureFault> {
        self.fresh(&thing.id)?;
        let at = self.plan.site.objects.iter().position(|t| t.id == below).map(|i| i + 1);
        self.change(Edit::put_at(thing, at))
    }

    pub fn put_shape(&mut self, mut thing: SiteObject, shape: Shape) -> Result<(), GestureFault> {
        if let Some(old) = thing.shape_mut() {
            *old = shape;
        }
        self.put(thing)
    }

    /// The name of a new thing must be new.
    pub fn fresh(&self, id: &str) -> Result<(), GestureFault> {
        let plan = &self.plan;
        let taken = plan.site.object(id).is_some()
            || plan.drawn_head(id).is_some()
            || plan.group(id).is_some()
            || plan.valve(id).is_some()
            || plan.supply(id).is_some()
            || plan.piping.joint(id).is_some()
            || plan.piping.leg(id).is_some();
        if taken { Err(GestureFault::at(id, "is already on the plan")) } else { Ok(()) }
    }

    pub fn put_head(&mut self, group: &str, head: DrawnHead) -> Result<(), GestureFault> {
        self.change(Edit::put_head(group.to_owned(), head))
    }

    /// Takes a head off; the last one of a group takes the group with it.
    pub fn remove_head(&mut self, group: &str, id: &str) -> Result<(), GestureFault> {
        let last = self.plan.group(group).is_some_and(|g| g.drawn.len() == 1 && g.drawn[0].id == id);
        self.change(if last {
            Edit::remove::<HeadGroup>(group.to_owned())
        } else {
            Edit::remove_head(group.to_owned(), id.to_owned())
        })
    }

    pub fn place(&mut self, id: &str, motion: Motion) -> Result<(), GestureFault> {
        match self.find(id)? {
            Found::Thing(thing) => self.put(thing.moved(motion)),
            Found::Head(group, head) => self.put_head(&group, moved_head(&head, motion)),
            Found::Joint(joint) => self.change(Edit::put(Joint { at: motion.of(joint.at), ..joint })),
            // Its ends stay with what they stand at.
            Found::Leg(leg) => self.change(Edit::put(PipeLeg {
                bends: leg.bends.iter().map(|p| motion.of(*p)).collect(),
                kept: true,
                ..leg
            })),
        }
    }

    /// The group of drawn heads with this nozzle on this area, made like another where there is none.
    pub fn group_for(
        &mut self,
        nozzle: &Nozzle,
        area: Option<&str>,
        new: &str,
        like: Option<&HeadGroup>,
        first: DrawnHead,
    ) -> Result<(), GestureFault> {
        let fits = |g: &&HeadGroup| g.is_drawn() && g.nozzle == nozzle.id && g.area.as_deref() == area;
        if let Some(group) = self.plan.groups.iter().find(fits).map(|g| g.id.clone()) {
            return self.put_head(&group, first);
        }
        self.fresh(new)?;
        let group = super::heads::new_group(&self.plan, new, nozzle, area, like, vec![first]);
        self.change(Edit::put(group))
    }

    /// All of it, edit by edit.
    pub fn done(self) -> Vec<Edit> {
        self.edits
    }

    /// All of it as one edit.
    pub fn finish(mut self) -> Result<Edit, GestureFault> {
        match self.edits.len() {
            0 => Err(GestureFault::new("nothing selected")),
            1 => Ok(self.edits.remove(0)),
            _ => Ok(Edit::batch(self.edits)),
        }
    }
}

pub(super) fn moved_head(head: &DrawnHead, motion: Motion) -> DrawnHead {
    DrawnHead { at: motion.of(head.at), facing: motion.of_direction(head.facing), ..head.clone() }
}

/// An outline that can't be made is refused with the place that is to blame.
fn sound(thing: &SiteObject, units: UnitSystem) -> Result<(), GestureFault> {
    let fault = match (thing.shape(), thing.line()) {
        (Some(shape), _) => shape.check().err().map(|fault| (shape.place_of(&fault), fault)),
        (None, Some(line)) => {
            line.check().err().map(|fault| (fault.corner().and_then(|i| line.0.get(i)).map(|v| v.at), fault))
        }
        (None, None) => None,
    };
    let Some((place, fault)) = fault else {
        return Ok(());
    };
    let why = match fault {
        ShapeFault::Crossing(p) => {
            let tape = |m: f64| Length::from_m(m).show_tape(units);
            format!("the outline crosses or touches itself at {} right, {} up", tape(p.x), tape(p.y))
        }
        other => other.to_string(),
    };
    Err(GestureFault {
        place: place.filter(|p| p.is_sound()),
        ..GestureFault::at(&thing.id, format!("{}: {why}", thing.title()))
    })
}

//! Pipe drawn and changed by hand.

use super::super::draft::Draft;
use super::GestureFault;
use crate::catalogue::PipeId;
use crate::plan::{Edit, Joint, JointKind, LegOf, PipeLeg, Plan, drawn_ends};
use crate::site::{Point, Vertex, to_segment};

/// The end of a drawn pipe takes hold of what it could join within so much, m.
const REACH: f64 = 0.35;

/// Lays a pipe along a way. Its ends join what of its main or lateral is near: a head, a valve, a box, a
/// joint, or a leg, which gets a tee there; an end in the open becomes a joint. `new` names what is made.
pub(super) fn lay(d: &mut Draft, of: &LegOf, way: &[Point], new: &[String]) -> Result<(), GestureFault> {
    if way.len() < 2 || way.iter().any(|p| !p.is_sound()) {
        return Err(GestureFault::new("a pipe needs two points"));
    }
    let mut names = new.iter();
    let mut name = || {
        let next = names.next().cloned();
        next.ok_or_else(|| GestureFault::new("missing ids for new items"))
    };
    let leg = name()?;
    d.fresh(&leg)?;
    let from = end(d, of, way[0], &mut name)?;
    let to = end(d, of, way[way.len() - 1], &mut name)?;
    if from == to {
        return Err(GestureFault::new("both ends of the pipe are at the same point"));
    }
    let pipe = pipe_like(&d.plan, of);
    d.change(Edit::put(PipeLeg {
        bends: way[1..way.len() - 1].to_vec(),
        kept: true,
        ..PipeLeg::straight(&leg, of.clone(), &from, &to, pipe)
    }))
}

/// Lays many pipes, each joined to what is near; gives the edits, and what could not be laid. `name` gives a
/// new name each time.
pub fn lay_pipes(
    plan: &Plan,
    pipes: &[(LegOf, Vec<Point>)],
    mut name: impl FnMut(char) -> String,
) -> (Vec<Edit>, Vec<String>) {
    let mut d = Draft::of(plan);
    let mut told = Vec::new();
    for (of, way) in pipes {
        let known = match of {
            LegOf::Main(supply) => plan.supply(supply).is_some(),
            LegOf::Lateral(valve) => plan.valve(valve).is_some(),
        };
        let whose = match of {
            LegOf::Main(id) | LegOf::Lateral(id) => id,
        };
        if !known {
            told.push(format!("‘{whose}’ does not exist in this job; its pipe was skipped"));
            continue;
        }
        let new: Vec<String> = ['p', 'j', 'p', 'j', 'p'].map(&mut name).into();
        if let Err(fault) = lay(&mut d, of, way, &new) {
            told.push(format!("a pipe of ‘{whose}’: {}", fault.message));
        }
    }
    told.sort();
    told.dedup();
    (d.done(), told)
}

/// The pipe that a new leg begins with: that of its neighbours, else the group's, else the usual one.
fn pipe_like(plan: &Plan, of: &LegOf) -> PipeId {
    let own = plan.piping.legs.iter().find(|l| l.of == *of).map(|l| l.pipe.clone());
    let group = || {
        let LegOf::Lateral(valve) = of else { return None };
        plan.groups.iter().find(|g| g.is_on(valve)).map(|g| g.pipe.clone())
    };
    own.or_else(group).unwrap_or_else(|| crate::usual::lateral(plan.units))
}

/// The named thing at which a pipe ends.
fn end(
    d: &mut Draft,
    of: &LegOf,
    at: Point,
    name: &mut impl FnMut() -> Result<String, GestureFault>,
) -> Result<String, GestureFault> {
    let near = drawn_ends(&d.plan, of).into_iter().map(|(id, p)| (p.distance(at), id));
    if let Some((off, id)) = near.min_by(|a, b| a.0.total_cmp(&b.0))
        && off <= REACH
    {
        return Ok(id);
    }
    let joint = name()?;
    let on = d.plan.piping.legs.iter().filter(|l| l.of == *of).find_map(|leg| {
        let way = d.plan.way_of(leg)?;
        let stretch = (0..way.len() - 1).find(|i| to_segment(at, way[*i], way[*i + 1]) <= REACH)?;
        Some((leg.clone(), way, stretch))
    });
    match on {
        Some((leg, way, stretch)) => tee(d, &leg, &way, stretch, at, joint.clone(), name()?)?,
        None => {
            d.fresh(&joint)?;
            d.change(Edit::put(Joint { id: joint.clone(), kind: JointKind::Tee, at }))?;
        }
    }
    Ok(joint)
}

/// Parts a leg at a stretch of its way and sets a tee there.
fn tee(
    d: &mut Draft,
    leg: &PipeLeg,
    way: &[Point],
    stretch: usize,
    at: Point,
    joint: String,
    rest: String,
) -> Result<(), GestureFault> {
    d.fresh(&joint)?;
    d.fresh(&rest)?;
    let (a, b) = (way[stretch], way[stretch + 1]);
    let along = b - a;
    let share = ((at - a).dot(along) / along.dot(along).max(1e-12)).clamp(0.0, 1.0);
    d.change(Edit::put(Joint { id: joint.clone(), kind: JointKind::Tee, at: a + along * share }))?;
    d.change(Edit::put(PipeLeg { to: joint.clone(), bends: way[1..=stretch].to_vec(), ..leg.clone() }))?;
    d.change(Edit::put(PipeLeg {
        id: rest,
        from: joint,
        bends: way[stretch + 1..way.len() - 1].to_vec(),
        ..leg.clone()
    }))
}

/// Takes a leg up, with joints that nothing else comes to.
pub(super) fn remove_leg(d: &mut Draft, leg: &PipeLeg) -> Result<(), GestureFault> {
    d.change(Edit::remove::<PipeLeg>(leg.id.clone()))?;
    for end in [&leg.from, &leg.to] {
        let used = d.plan.piping.legs.iter().any(|l| l.from == *end || l.to == *end);
        if d.plan.piping.joint(end).is_some() && !used {
            d.change(Edit::remove::<Joint>(end.clone()))?;
        }
    }
    Ok(())
}

/// Takes a joint out: two legs that met there become one; more of them, or one, go with it.
pub(super) fn remove_joint(d: &mut Draft, joint: &Joint) -> Result<(), GestureFault> {
    let at_it = |l: &&PipeLeg| l.from == joint.id || l.to == joint.id;
    let legs: Vec<PipeLeg> = d.plan.piping.legs.iter().filter(at_it).cloned().collect();
    if let [a, b] = &legs[..]
        && a.of == b.of
    {
        // Both as they lead towards the joint and away from it.
        let turned = |l: &PipeLeg| PipeLeg {
            from: l.to.clone(),
            to: l.from.clone(),
            bends: l.bends.iter().rev().copied().collect(),
            ..l.clone()
        };
        let into = if a.to == joint.id { a.clone() } else { turned(a) };
        let out = if b.from == joint.id { b.clone() } else { turned(b) };
        if into.from != out.to {
            let bends = into.bends.iter().chain(&out.bends).copied().collect();
            d.change(Edit::remove::<PipeLeg>(b.id.clone()))?;
            d.change(Edit::put(PipeLeg { to: out.to.clone(), bends, ..into }))?;
            return d.change(Edit::remove::<Joint>(joint.id.clone()));
        }
    }
    for leg in &legs {
        d.change(Edit::remove::<PipeLeg>(leg.id.clone()))?;
    }
    d.change(Edit::remove::<Joint>(joint.id.clone()))
}

/// Changes the points of a leg's way. Its ends stay with what they stand at; a joint goes along.
pub(super) fn points(
    d: &mut Draft,
    leg: &PipeLeg,
    change: impl FnOnce(&mut Vec<Vertex>, bool) -> Result<(), GestureFault>,
) -> Result<(), GestureFault> {
    let way = d.plan.way_of(leg);
    let way = way.ok_or_else(|| GestureFault::at(&leg.id, "has a missing end"))?;
    let mut now: Vec<Vertex> = way.iter().map(|p| Vertex { at: *p, bulge: 0.0 }).collect();
    change(&mut now, false)?;
    let (Some(first), Some(last)) = (now.first(), now.last()) else {
        return Err(GestureFault::at(&leg.id, "needs two ends"));
    };
    for (end, at, was) in [(&leg.from, first.at, way[0]), (&leg.to, last.at, way[way.len() - 1])] {
        if at.distance(was) < crate::site::SAME {
            continue;
        }
        let Some(joint) = d.plan.piping.joint(end).cloned() else {
            return Err(GestureFault::at(&leg.id, "ends at an object. Move the object and the pipe follows"));
        };
        d.change(Edit::put(Joint { at, ..joint }))?;
    }
    let bends = now[1..now.len() - 1].iter().map(|v| v.at).collect();
    d.change(Edit::put(PipeLeg { bends, kept: true, ..leg.clone() }))
}

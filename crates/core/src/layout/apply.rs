//! A proposal as one edit, and evening out by hand.

use super::{Proposal, Proposed};
use crate::board::Gesture;
use crate::job::Job;
use crate::plan::{DrawnHead, Edit, HeadGroup, Plan, left_behind};
use crate::site::Point;
use std::collections::HashSet;

/// The edit that puts a proposal in the place of the drawn heads of its area. Locked heads stay.
/// Where all heads before it were on one valve and of the same kind, the new ones go on it too. Laterals that ran to heads
/// that go are taken up, valves that then water nothing go with them.
pub fn lay_out(job: &Job, proposal: &Proposal) -> Edit {
    let area = proposal.area.as_str();
    let here: Vec<&HeadGroup> = job.groups.iter().filter(|g| g.area.as_deref() == Some(area)).collect();
    let mut valves: Vec<Option<&str>> = here.iter().flat_map(|g| g.heads().map(|(_, _, v)| v)).collect();
    valves.dedup();
    let same_kind =
        here.iter().all(|g| job.catalogue().nozzle(&g.nozzle).is_some_and(|n| n.kind == proposal.kind));
    let valve = match valves.as_slice() {
        [Some(one)] if same_kind => Some((*one).to_owned()),
        _ => None,
    };
    let like = here.first().copied();
    let mut ids = Names::of(job);
    let mut edits = Vec::new();
    let mut nozzles: Vec<&str> = Vec::new();
    for p in &proposal.heads {
        if !nozzles.contains(&p.nozzle.as_str()) {
            nozzles.push(&p.nozzle);
        }
    }
    let mut kept: Vec<&str> = Vec::new();
    let heads_of = |nozzle: &str, ids: &mut Names| -> Vec<DrawnHead> {
        proposal
            .heads
            .iter()
            .filter(|p| p.nozzle == nozzle)
            .map(|p| drawn(p, ids.next("h"), valve.clone()))
            .collect()
    };
    for group in here {
        let mut next = group.clone();
        next.drawn.retain(|h| h.locked);
        // What was only listed is drawn now.
        next.listed.clear();
        if !kept.contains(&group.nozzle.as_str()) && nozzles.contains(&group.nozzle.as_str()) {
            next.drawn.extend(heads_of(&group.nozzle, &mut ids));
            kept.push(&group.nozzle);
        }
        edits.push(if next.drawn.is_empty() {
            Edit::remove::<HeadGroup>(group.id.clone())
        } else {
            Edit::put(next)
        });
    }
    for nozzle in nozzles.into_iter().filter(|n| !kept.contains(n)) {
        let Some(known) = job.catalogue().nozzle(nozzle) else {
            continue;
        };
        let drawn = heads_of(nozzle, &mut ids);
        // Pipe as the area's other heads have it, if there are any.
        let group = crate::board::new_group(job, &ids.next("g"), known, Some(area), like, drawn);
        edits.push(Edit::put(group));
    }
    if let Ok((after, _)) = job.replay(&Edit::batch(edits.clone())) {
        edits.extend(left_behind(job, &after));
    }
    Edit::batch(edits)
}

fn drawn(p: &Proposed, id: String, valve: Option<String>) -> DrawnHead {
    DrawnHead { id, at: p.at, arc: p.arc, facing: p.facing, radius: p.radius, valve, locked: false }
}

/// Names that nothing on the board has yet.
struct Names {
    taken: HashSet<String>,
    last: usize,
}

impl Names {
    fn of(plan: &Plan) -> Self {
        let things = plan.site.objects.iter().map(|t| t.id.clone());
        let groups = plan
            .groups
            .iter()
            .flat_map(|g| std::iter::once(g.id.clone()).chain(g.drawn.iter().map(|h| h.id.clone())));
        let rest = plan.valves.iter().map(|v| v.id.clone()).chain(plan.supplies.iter().map(|s| s.id.clone()));
        // A leg may name a head that has gone: another of that name would hang on it.
        let ends = plan.piping.legs.iter().flat_map(|l| [l.from.clone(), l.to.clone()]);
        Self { taken: things.chain(groups).chain(rest).chain(ends).collect(), last: 0 }
    }
    fn next(&mut self, letter: &str) -> String {
        loop {
            self.last += 1;
            let name = format!("{letter}{}", self.last);
            if self.taken.insert(name.clone()) {
                return name;
            }
        }
    }
}

/// Moves heads that stand in a row so that they divide the way between the first and the last of
/// them evenly: one gesture for each head that moves. Fewer than three have nothing between them.
pub fn even_out(plan: &Plan, ids: &[String]) -> Vec<Gesture> {
    let mut heads: Vec<(&str, Point)> =
        ids.iter().filter_map(|id| plan.drawn_head(id)).map(|(_, h)| (h.id.as_str(), h.at)).collect();
    if heads.len() < 3 {
        return Vec::new();
    }
    // The two farthest apart are the ends; the others are in the order they lie between them.
    let far = |p: Point| heads.iter().map(|h| h.1).max_by(|a, b| a.distance(p).total_cmp(&b.distance(p)));
    let Some(first) = far(heads[0].1) else {
        return Vec::new();
    };
    let Some(last) = far(first) else { return Vec::new() };
    let Some(along) = (last - first).unit() else {
        return Vec::new();
    };
    heads.sort_by(|a, b| along.dot(a.1 - first).total_cmp(&along.dot(b.1 - first)));
    let parts = (heads.len() - 1) as f64;
    let step = first.distance(last) / parts;
    heads
        .iter()
        .enumerate()
        .filter_map(|(i, (id, at))| {
            // Only along the row: how far off its edge each stands is left as it is.
            let by = along * (step * i as f64 - along.dot(*at - first));
            (by.norm() > 5e-4).then(|| Gesture::Move {
                ids: vec![(*id).to_owned()],
                motion: crate::site::Motion::Shift { by },
            })
        })
        .collect()
}

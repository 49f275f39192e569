//! What is left behind when other heads take the place of some.

use super::{Edit, PipeLeg, Plan, Valve};
use std::collections::BTreeSet;

/// Heads of a valve: the drawn by their ids, the listed by their number.
fn heads<'p>(plan: &'p Plan, valve: &str) -> (BTreeSet<&'p str>, u32) {
    let mut drawn = BTreeSet::new();
    let mut listed = 0;
    for group in &plan.groups {
        let on = group.drawn.iter().filter(|h| h.valve.as_deref() == Some(valve));
        drawn.extend(on.map(|h| h.id.as_str()));
        let lots = group.listed.iter().filter(|l| l.valve.as_deref() == Some(valve));
        listed += lots.map(|l| l.count).sum::<u32>();
    }
    (drawn, listed)
}

/// Edits behind those that lead from one plan to another, by which heads went: the laterals of valves whose heads are
/// others now are taken up, since they run to places where no head is; valves that watered something and water nothing
/// any more go, unless they are locked.
pub fn left_behind(before: &Plan, after: &Plan) -> Vec<Edit> {
    let mut edits = Vec::new();
    for valve in &after.valves {
        let (was, is) = (heads(before, &valve.id), heads(after, &valve.id));
        if was == is || was.0.is_subset(&is.0) && was.1 <= is.1 {
            continue;
        }
        if is == (BTreeSet::new(), 0) && !valve.locked {
            edits.push(Edit::remove::<Valve>(valve.id.clone()));
            continue;
        }
        let lateral = after.piping.legs.iter().filter(|l| l.valve() == Some(&valve.id));
        edits.extend(lateral.map(|l| Edit::remove::<PipeLeg>(l.id.clone())));
    }
    edits
}

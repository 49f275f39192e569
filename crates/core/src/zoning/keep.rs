//! What a new split keeps of what was decided: names, models, filters, regulators, places in the list.

use super::class::{Candidate, Class};
use crate::catalogue::Catalogue;
use crate::job::Job;
use crate::plan::{Valve, area_name, name_base};
use crate::units::{Flow, Pressure};

/// More than this a valve loses only where it is too small.
const MOST_LOSS_PSI: f64 = 5.0;

/// For each part of a class the valve that most of its heads are on already, each valve once.
pub(super) fn matched<'v>(
    class: &Class<'_>,
    parts: &[Vec<usize>],
    old: &[&'v Valve],
) -> Vec<Option<&'v Valve>> {
    let shared = |part: &[usize], valve: &Valve| {
        let on = |i: &&usize| class[**i].on == Some(valve.id.as_str());
        part.iter().filter(on).count()
    };
    let mut pairs: Vec<(usize, usize, usize)> = Vec::new();
    for (p, part) in parts.iter().enumerate() {
        for (v, valve) in old.iter().enumerate() {
            pairs.push((shared(part, valve), v, p));
        }
    }
    pairs.retain(|x| x.0 > 0);
    pairs.sort_by(|a, b| b.0.cmp(&a.0).then(a.1.cmp(&b.1)).then(a.2.cmp(&b.2)));
    let mut found = vec![None; parts.len()];
    let mut taken = vec![false; old.len()];
    for (_, v, p) in pairs {
        if found[p].is_none() && !taken[v] {
            found[p] = Some(old[v]);
            taken[v] = true;
        }
    }
    found
}

/// A valve's model and filter for a flow: those that it has, while they suit it.
pub(super) fn fitted(
    catalogue: &Catalogue,
    was: Option<&Valve>,
    flow: Flow,
    drip: bool,
) -> (String, Option<String>) {
    let suits = |id: &&String| {
        catalogue.device(id).is_some_and(|d| {
            d.min_flow.is_none_or(|least| flow.reaches(least))
                && d.loss.at(flow) < Pressure::from_psi(MOST_LOSS_PSI)
        })
    };
    let model = was.map(|v| &v.model).filter(suits);
    let model = model.cloned().unwrap_or_else(|| catalogue.valve_for(flow, drip).id.clone());
    let carries = |id: &&String| {
        let device = catalogue.device(id);
        device.is_some_and(|d| d.proposed_to.is_none_or(|most| flow <= most))
    };
    let filter = was.and_then(|v| v.filter.as_ref()).filter(carries).cloned();
    let filter = filter.or_else(|| drip.then(|| catalogue.filter_for(flow).id.clone()));
    (model, filter)
}

/// A valve of a split: its id, what its areas are called, and the name that somebody gave it.
pub(super) struct Called {
    pub id: String,
    pub areas: String,
    pub by_hand: bool,
    /// It stood before.
    pub stood: bool,
}

/// Names for the valves of a split in a job that has them: by their areas, numbered where an area takes
/// several; a name given by hand stays, and so does a number.
pub(super) fn named(job: &Job, called: &[Called]) -> Vec<Valve> {
    let free = |c: &&Called| !c.by_hand;
    let is_one = |id: &str| called.iter().filter(free).any(|c| c.id == id);
    let mut taken: Vec<String> =
        (job.valves.iter()).filter(|v| !is_one(&v.id)).map(|v| v.name.clone()).collect();
    let mut out = Vec::new();
    let mut bases: Vec<&str> = called.iter().filter(free).map(|c| c.areas.as_str()).collect();
    bases.sort_unstable();
    bases.dedup();
    for own in bases {
        let mine: Vec<&Valve> = (called.iter().filter(free))
            .filter(|c| c.areas == own)
            .filter_map(|c| job.valve(&c.id))
            .collect();
        // A valve that was called by its areas before keeps its number: it may be painted on its box.
        let mut names: Vec<Option<String>> = Vec::new();
        for valve in &mine {
            let stood = called.iter().any(|c| c.id == valve.id && c.stood);
            let stays = (stood && name_base(&valve.name) == own).then(|| valve.name.clone());
            let name = stays.filter(|n| !taken.contains(n));
            taken.extend(name.clone());
            names.push(name);
        }
        let alone = mine.len() == 1 && !taken.iter().any(|t| name_base(t) == own);
        for (valve, name) in mine.into_iter().zip(names) {
            let next = || (1..).map(|n| format!("{own} {n}")).find(|n| !taken.contains(n));
            let name = match name {
                Some(name) => name,
                None if alone => own.to_owned(),
                None => next().unwrap_or_default(),
            };
            taken.push(name.clone());
            if valve.name != name {
                out.push(Valve { name, ..valve.clone() });
            }
        }
    }
    out
}

/// Areas of the heads of a part.
pub(super) fn areas_of(class: &[Candidate<'_>], part: &[usize]) -> String {
    area_name(part.iter().map(|i| class[*i].group))
}

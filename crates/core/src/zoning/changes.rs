//! What a split would change, valve by valve, before anybody says yes to it.

use crate::job::Job;
use crate::plan::{Regulation, Valve, area_name};
use crate::units::{Flow, Pressure};
use crate::zone::zone_of;

/// A valve as it stands, or as it would.
#[derive(Debug, Clone, PartialEq)]
pub struct ValveState {
    /// Its number in the list.
    pub number: usize,
    /// What it is called.
    pub name: String,
    /// Heads on it.
    pub heads: usize,
    /// The areas of these.
    pub areas: String,
    /// Flow and pressure at its last head; none where the zone can't be solved.
    pub solved: Option<(Flow, Pressure)>,
    /// Title of its model.
    pub model: String,
    /// Title of its filter.
    pub filter: Option<String>,
    /// Its regulator.
    pub regulation: Regulation,
}

/// A valve before and after; one of the two is there always.
#[derive(Debug, Clone, PartialEq)]
pub struct ValveChange {
    /// As it stands; none: it would be new.
    pub was: Option<ValveState>,
    /// As it would be; none: it would be gone.
    pub now: Option<ValveState>,
    /// Its drawn lateral would be taken up.
    pub lateral: bool,
}

/// Valves that are not the same in two states of a job, in the order of the list, new ones behind.
pub fn changes(before: &Job, after: &Job) -> Vec<ValveChange> {
    let mut out = Vec::new();
    let laid = |job: &Job, id: &str| job.piping.lateral(id).next().is_some();
    for valve in &before.valves {
        let now = after.valve(&valve.id);
        if now == Some(valve) && heads(before, valve) == heads(after, valve) {
            continue;
        }
        out.push(ValveChange {
            was: Some(state(before, valve)),
            now: now.map(|v| state(after, v)),
            lateral: laid(before, &valve.id) && !laid(after, &valve.id),
        });
    }
    let new = after.valves.iter().filter(|v| before.valve(&v.id).is_none());
    out.extend(new.map(|valve| ValveChange { was: None, now: Some(state(after, valve)), lateral: false }));
    out
}

fn heads(job: &Job, valve: &Valve) -> Vec<crate::plan::HeadRef> {
    job.groups.iter().flat_map(|g| g.heads_on(Some(&valve.id))).collect()
}

fn state(job: &Job, valve: &Valve) -> ValveState {
    let title = |id: &String| job.catalogue().device(id).map_or_else(|| id.clone(), |d| d.label.clone());
    let zone = zone_of(job, valve).ok();
    ValveState {
        number: job.valve_number(&valve.id),
        name: valve.name.clone(),
        heads: heads(job, valve).len(),
        areas: area_name(job.groups.iter().filter(|g| g.is_on(&valve.id))),
        solved: zone.map(|z| (z.flow, z.lowest().nozzle)),
        model: title(&valve.model),
        filter: valve.filter.as_ref().map(title),
        regulation: valve.regulation,
    }
}

use super::share::reasons_apart;
use crate::catalogue::Nozzle;
use crate::job::Job;
use crate::plan::{HeadGroup, HeadRef};
use crate::units::Flow;

/// Heads that may share a valve, and what they take at the least.
#[derive(Debug, Clone, PartialEq)]
pub struct ClassBound {
    /// Names of their areas.
    pub areas: Vec<String>,
    /// Their nominal flow.
    pub flow: Flow,
    /// What one valve may take; none where that is not known.
    pub limit: Option<Flow>,
    /// Valves at the least.
    pub valves: usize,
}

/// Least number of valves, and how it was found.
#[derive(Debug, Clone, PartialEq)]
pub struct Bound {
    /// Valves.
    pub valves: usize,
    /// The classes of heads that may share.
    pub classes: Vec<ClassBound>,
}

/// A head that is to come onto a valve.
pub(super) struct Candidate<'a> {
    pub head: HeadRef,
    pub group: &'a HeadGroup,
    pub flow: Flow,
    /// The valve that it is on.
    pub on: Option<&'a str>,
}
/// Heads that may share.
pub(super) type Class<'a> = Vec<Candidate<'a>>;

/// Heads that may share, class by class, in the order of the groups.
pub(super) fn classes(job: &Job, wanted: impl Fn(&HeadRef, Option<&str>) -> bool) -> Vec<Class<'_>> {
    let mut classes: Vec<Class<'_>> = Vec::new();
    for group in &job.groups {
        let Some(nozzle) = job.catalogue().nozzle(&group.nozzle) else {
            continue;
        };
        let heads: Vec<Candidate<'_>> = group
            .heads()
            .filter_map(|(index, arc, on)| {
                let head = HeadRef {
                    group: group.id.clone(),
                    index,
                };
                let flow = head_flow(group, nozzle, arc);
                wanted(&head, on).then_some(Candidate {
                    head,
                    group,
                    flow,
                    on,
                })
            })
            .collect();
        if heads.is_empty() {
            continue;
        }
        // Heads of one group stand together in a class: each group is asked once.
        let fits = |class: &Class<'_>| {
            let first_of_group = class
                .iter()
                .enumerate()
                .filter(|(i, c)| *i == 0 || !std::ptr::eq(c.group, class[i - 1].group));
            first_of_group
                .map(|(_, c)| c)
                .all(|c| reasons_apart(job, c.group, group).is_empty())
        };
        match classes.iter_mut().find(|c| fits(c)) {
            Some(class) => class.extend(heads),
            None => classes.push(heads),
        }
    }
    classes
}

fn head_flow(group: &HeadGroup, nozzle: &Nozzle, arc: u16) -> Flow {
    nozzle.flow_for_arc(arc) * f64::from(group.row.map_or(1, |r| r.emitters))
}

/// The least number of valves: for every class of heads that may share, its nominal flow over the
/// design flow, rounded up; never more than there are heads.
pub fn lower_bound(job: &Job, design_flow: Option<Flow>) -> Bound {
    let bound = |class: &Class<'_>| {
        let flow: Flow = class.iter().map(|c| c.flow).sum();
        let mut areas: Vec<String> = class.iter().map(|c| c.group.name.clone()).collect();
        areas.dedup();
        // A head that alone wants more than the design flow still hangs on one valve.
        let valves = at_least(flow, design_flow).min(class.len());
        ClassBound {
            areas,
            flow,
            limit: design_flow,
            valves,
        }
    };
    let classes: Vec<ClassBound> = classes(job, |_, _| true).iter().map(bound).collect();
    Bound {
        valves: classes.iter().map(|c| c.valves).sum(),
        classes,
    }
}

/// Valves that a flow takes at the least.
pub(super) fn at_least(flow: Flow, limit: Option<Flow>) -> usize {
    match limit {
        Some(limit) if limit.lpm() > 0.0 => ((flow / limit - 1e-9).ceil() as usize).max(1),
        _ => 1,
    }
}

use crate::drip::inlet_flows;
use crate::findings::reasons_apart;
use crate::job::Job;
use crate::plan::{HeadGroup, HeadRef, Valve};
use crate::site::Point;
use crate::units::Flow;
use crate::water::{Aim, SupplyPoint, demand_of_group, most_for};
use std::cmp::Ordering::Equal;
use std::sync::Arc;

/// Heads that may share a valve, and what they take at the least.
#[derive(Debug, Clone, PartialEq)]
pub struct ClassBound {
    /// Names of their areas.
    pub areas: Vec<String>,
    /// What they take with every head at its aim.
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
    /// Its place, where it is drawn.
    pub at: Option<Point>,
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
        let listed: u32 = group.listed.iter().map(|l| l.count).sum();
        let laid = inlet_flows(job, group);
        let heads: Vec<Candidate<'_>> = group
            .heads()
            .filter_map(|(index, arc, on)| {
                let head = HeadRef { group: group.id.clone(), index };
                let laid = laid.as_ref().and_then(|flows| flows.get(index as usize).copied());
                let flow = laid.unwrap_or_else(|| group.flow_of(nozzle, index, arc));
                let at = (index.checked_sub(listed)).and_then(|i| Some(group.drawn.get(i as usize)?.at));
                wanted(&head, on).then_some(Candidate { head, group, flow, on, at })
            })
            .collect();
        if heads.is_empty() {
            continue;
        }
        let fits = |class: &Class<'_>| groups(class).all(|g| reasons_apart(job, g, group).is_empty());
        match classes.iter_mut().find(|c| fits(c)) {
            Some(class) => class.extend(heads),
            None => classes.push(heads),
        }
    }
    classes
}

/// The water of a point of connection, as a proposal of valves goes by it.
#[derive(Debug, Clone, PartialEq)]
pub struct Water {
    /// Its id.
    pub supply: String,
    /// What the connection lets any valve take; none where only pressures are known.
    pub limit: Option<Flow>,
    /// Its curve and chain; none where the water is not known.
    pub point: Option<Arc<SupplyPoint>>,
}

/// What the heads of a class may take on one valve of a connection, and how well its neediest head
/// works then.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Own {
    pub flow: Option<Flow>,
    pub aim: Aim,
}

impl Own {
    /// Where nothing is known of the water.
    pub const UNKNOWN: Self = Self { flow: None, aim: Aim::Best };
}

impl Water {
    /// The class's own figure: what the connection allows, and what its neediest group leaves for the
    /// others at the pressure it wants. `piped` false: as if nothing but the chain cost, for a bound.
    pub(super) fn own(&self, job: &Job, class: &Class<'_>, home: Option<&Valve>, piped: bool) -> Own {
        let mut own = Own { flow: self.limit, aim: Aim::Best };
        let Some(point) = &self.point else { return own };
        // Without meter, line or running water a pressure says nothing of a flow.
        let known = point.curve.falls() || !point.chain.0.is_empty();
        for demand in groups(class).filter_map(|g| demand_of_group(job, g, home)) {
            let demand = if piped { demand } else { demand.at_the_least() };
            let (aim, most) = most_for(point, &demand).unwrap_or((Aim::AtLimit, demand.one_head));
            own.aim = own.aim.max(aim);
            if known {
                own.flow = Some(own.flow.map_or(most, |f| f.min(most)));
            }
        }
        own
    }
}

/// Groups of a class, each once: heads of one group stand together.
pub(super) fn groups<'c, 'a>(class: &'c Class<'a>) -> impl Iterator<Item = &'a HeadGroup> + use<'c, 'a> {
    class
        .iter()
        .enumerate()
        .filter(|(i, c)| *i == 0 || !std::ptr::eq(c.group, class[i - 1].group))
        .map(|(_, c)| c.group)
}

/// What heads take at the least while each gets its aim: their nominal flow times (aim / nominal)^x.
pub(super) fn flow_at(job: &Job, class: &Class<'_>, aim: Aim) -> Flow {
    let catalogue = job.catalogue();
    let share = |group: &HeadGroup| {
        let nozzle = catalogue.nozzle(&group.nozzle)?;
        let of_kind = catalogue.class(nozzle.kind);
        let band = of_kind.band();
        Some((aim.pressure(band) / band.best).powf(nozzle.exponent_with(of_kind)))
    };
    class.iter().map(|c| c.flow * share(c.group).unwrap_or(1.0)).sum()
}

/// The least number of valves: Σ over classes of ⌈Σ q (aim / nominal)^x / limit⌉.
///
/// For every class of heads that may share, what it takes with every head at its aim, over what one valve may
/// take at the connection that gives most, rounded up; never more than there are heads. A lower bound of
/// every split that keeps the aim: only the chain costs in it. Heads that get less than their aim take less,
/// and may stand on fewer valves.
///
/// # Source
/// Flow over limit, as installers count.
///
/// # Example
/// 26 half circles of 1.195 gpm at 27 of 30 psi are 29.5 gpm: two valves of 17.8.
pub fn lower_bound(job: &Job, water: &[Water]) -> Bound {
    let bound = |class: &Class<'_>| {
        let on = |w: &&Water| job.supply(&w.supply).is_some();
        let figures: Vec<Own> = water.iter().filter(on).map(|w| w.own(job, class, None, false)).collect();
        let known = !figures.is_empty() && figures.iter().all(|f| f.flow.is_some());
        let best = figures
            .iter()
            .max_by(|a, b| a.flow.map(Flow::lpm).partial_cmp(&b.flow.map(Flow::lpm)).unwrap_or(Equal));
        let limit = best.and_then(|b| b.flow).filter(|_| known);
        let flow = flow_at(job, class, figures.iter().map(|f| f.aim).max().unwrap_or(Aim::Best));
        let mut areas: Vec<String> = class.iter().map(|c| c.group.name.clone()).collect();
        areas.dedup();
        // A head that alone wants more than the design flow still hangs on one valve.
        let valves = at_least(flow, limit).min(class.len());
        ClassBound { areas, flow, limit, valves }
    };
    let classes: Vec<ClassBound> = classes(job, |_, _| true).iter().map(bound).collect();
    Bound { valves: classes.iter().map(|c| c.valves).sum(), classes }
}

/// Valves that a flow takes at the least.
pub(super) fn at_least(flow: Flow, limit: Option<Flow>) -> usize {
    match limit {
        Some(limit) if limit.lpm() > 0.0 => ((flow / limit - 1e-9).ceil() as usize).max(1),
        _ => 1,
    }
}

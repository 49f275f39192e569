//! The split: heads into classes that may share, classes into valves of even flow, each checked by
//! solving it.

use super::share::reasons_apart;
use crate::catalogue::{Catalogue, Nozzle, Role};
use crate::plan::{Edit, HeadGroup, HeadRef, Plan, Regulation, Valve, apply};
use crate::units::{Flow, Pressure};
use crate::zone::{ZoneAssessment, assess_zone};

/// Which heads a proposal may place.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Scope {
    /// Those on no valve.
    Unassigned,
    /// All but those on locked valves.
    All,
}

/// Least number of valves, and how it was found.
#[derive(Debug, Clone, PartialEq)]
pub struct Bound {
    /// Valves.
    pub valves: usize,
    /// One line for each class of heads that may share.
    pub lines: Vec<String>,
}

/// A split, ready to be applied.
#[derive(Debug, Clone, PartialEq)]
pub struct Proposal {
    /// What it changes; `None`: nothing to place.
    pub edit: Option<Edit>,
    /// Valves that the heads in scope take.
    pub valves: usize,
    /// Why more than the least were needed.
    pub why: Vec<String>,
}

struct Candidate<'a> {
    head: HeadRef,
    group: &'a HeadGroup,
    flow: Flow,
}

type Class<'a> = Vec<Candidate<'a>>;

/// Heads that may share, class by class, in the order of the groups.
fn classes<'a>(
    plan: &'a Plan,
    catalogue: &Catalogue,
    wanted: impl Fn(&HeadRef, Option<&str>) -> bool,
) -> Vec<Class<'a>> {
    let mut classes: Vec<Class<'a>> = Vec::new();
    for group in &plan.groups {
        let Some(nozzle) = catalogue.nozzle(&group.nozzle) else {
            continue;
        };
        let heads: Vec<Candidate<'a>> = group
            .heads()
            .filter_map(|(index, arc, on)| {
                let head = HeadRef {
                    group: group.id.clone(),
                    index,
                };
                wanted(&head, on).then(|| Candidate {
                    head,
                    group,
                    flow: head_flow(group, nozzle, arc),
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
                .all(|c| reasons_apart(c.group, group, catalogue).is_empty())
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
pub fn lower_bound(plan: &Plan, design_flow: Option<Flow>, catalogue: &Catalogue) -> Bound {
    let catalogue = plan.with_own(catalogue);
    let mut bound = Bound {
        valves: 0,
        lines: Vec::new(),
    };
    for class in classes(plan, catalogue, |_, _| true) {
        let flow: Flow = class.iter().map(|c| c.flow).sum();
        // A head that alone wants more than the design flow still hangs on one valve.
        let n = at_least(flow, design_flow).min(class.len());
        let mut names: Vec<&str> = class.iter().map(|c| c.group.name.as_str()).collect();
        names.dedup();
        let limit = design_flow.map_or_else(|| "design flow not known".to_owned(), |d| d.show(plan.units));
        bound.valves += n;
        bound.lines.push(format!(
            "{}: {} / {limit} → {n}",
            names.join(", "),
            flow.show(plan.units)
        ));
    }
    bound
}

fn at_least(flow: Flow, limit: Option<Flow>) -> usize {
    match limit {
        Some(limit) if limit.lpm() > 0.0 => ((flow / limit - 1e-9).ceil() as usize).max(1),
        _ => 1,
    }
}

/// Proposes valves for the heads in scope. No zone of the proposal takes more than the design flow
/// unless a single head does.
///
/// Deterministic: the same plan gives the same proposal.
pub fn propose(
    plan: &Plan,
    design_flows: &[(String, Option<Flow>)],
    scope: Scope,
    catalogue: &Catalogue,
) -> Proposal {
    let catalogue = plan.with_own(catalogue);
    let locked = |on: Option<&str>| on.is_some_and(|v| plan.valve(v).is_some_and(|v| v.locked));
    let wanted = |_: &HeadRef, on: Option<&str>| match scope {
        Scope::Unassigned => on.is_none(),
        Scope::All => !locked(on),
    };
    let mut edits = Vec::new();
    let mut work = plan.clone();
    let mut push = |work: &mut Plan, edit: Edit| {
        if let Ok((next, _)) = apply(work, &edit, catalogue) {
            *work = next;
            edits.push(edit);
        }
    };
    let mut homes: Vec<(String, Valve)> = Vec::new();
    if scope == Scope::All {
        for valve in plan.valves.iter().filter(|v| !v.locked) {
            for g in plan.groups.iter().filter(|g| g.is_on(&valve.id)) {
                homes.push((g.id.clone(), valve.clone()));
            }
            push(&mut work, Edit::RemoveValve { id: valve.id.clone() });
        }
    }
    let (mut valves, mut why) = (0, Vec::new());
    for class in classes(plan, catalogue, wanted) {
        // The point of connection and the mainline of a valve that served these heads before.
        let home = class
            .iter()
            .find_map(|c| homes.iter().find(|h| h.0 == c.group.id))
            .map(|h| &h.1);
        let supply = home
            .map(|v| v.supply.clone())
            .or_else(|| plan.supplies.first().map(|s| s.id.clone()));
        let Some(supply) = supply else { continue };
        let design = design_flows.iter().find(|d| d.0 == supply).and_then(|d| d.1);
        let (zones, reason) = split_class(&work, &class, &supply, home, design, catalogue);
        valves += zones.len();
        why.extend(reason);
        for (valve, heads) in zones {
            let id = valve.id.clone();
            push(&mut work, Edit::PutValve { valve, at: None });
            push(
                &mut work,
                Edit::AssignHeads {
                    heads,
                    valve: Some(id),
                },
            );
        }
    }
    let edit = (!edits.is_empty()).then_some(Edit::Batch { edits });
    Proposal { edit, valves, why }
}

type Zone = (Valve, Vec<HeadRef>);

fn split_class(
    plan: &Plan,
    class: &Class<'_>,
    supply: &str,
    home: Option<&Valve>,
    design: Option<Flow>,
    catalogue: &Catalogue,
) -> (Vec<Zone>, Option<String>) {
    let total: Flow = class.iter().map(|c| c.flow).sum();
    let least = at_least(total, design);
    // Pressure that does not come right with a few more valves does not come right with many.
    let patience = 2 * least + 2;
    let mut reason = None;
    let mut fallback: Option<Vec<Zone>> = None;
    let mut last = Vec::new();
    // One head may want more than there is: it still gets a valve, and the checks say the rest.
    for n in least.min(class.len())..=class.len() {
        let zones = build(plan, class, supply, home, n, catalogue);
        let faults: Vec<Unfit> = zones
            .iter()
            .filter_map(|(zone_plan, valve, _)| unfit(zone_plan, valve, design, catalogue))
            .collect();
        last = zones
            .into_iter()
            .map(|(_, valve, heads)| (valve, heads))
            .collect();
        let must = faults.iter().find(|f| f.must);
        if faults.is_empty() {
            break;
        }
        if must.is_none() && fallback.is_none() {
            fallback = Some(last.clone());
        }
        if n >= patience
            && let Some(zones) = fallback.take()
        {
            last = zones;
            break;
        }
        if let Some(fault) = must.or(faults.first()) {
            reason = Some(fault.text.clone());
        }
    }
    let name = class[0].group.name.clone();
    let why = (last.len() > least).then(|| {
        format!(
            "{name}: {} instead of {least}, since {}",
            last.len(),
            reason.unwrap_or_default()
        )
    });
    (last, why)
}

/// `n` valves of even flow, each regulated as its zone wants, with a plan in which it can be solved.
fn build(
    plan: &Plan,
    class: &Class<'_>,
    supply: &str,
    home: Option<&Valve>,
    n: usize,
    catalogue: &Catalogue,
) -> Vec<(Plan, Valve, Vec<HeadRef>)> {
    let drip = class.iter().any(|c| {
        catalogue
            .nozzle(&c.group.nozzle)
            .is_some_and(|z| z.kind.is_drip())
    });
    let mut work = plan.clone();
    let parts = even_parts(class, n);
    let names = crate::zoning::split::names(class, &parts);
    parts
        .iter()
        .zip(names)
        .map(|(part, name)| {
            let flow: Flow = class[part.clone()].iter().map(|c| c.flow).sum();
            let valve = Valve {
                id: work.fresh_id('v'),
                name,
                supply: supply.to_owned(),
                place: home.and_then(|h| h.place.clone()),
                model: valve_for(flow, drip, catalogue),
                mainline: home.and_then(|h| h.mainline.clone()),
                filter: drip.then(|| {
                    if flow.gpm() > 8.0 {
                        "filter-1in".into()
                    } else {
                        "filter-3/4in".into()
                    }
                }),
                regulation: Regulation::None,
                locked: false,
            };
            let heads: Vec<HeadRef> = class[part.clone()].iter().map(|c| c.head.clone()).collect();
            let batch = Edit::Batch {
                edits: vec![
                    Edit::PutValve {
                        valve: valve.clone(),
                        at: None,
                    },
                    Edit::AssignHeads {
                        heads: heads.clone(),
                        valve: Some(valve.id.clone()),
                    },
                ],
            };
            if let Ok((next, _)) = apply(&work, &batch, catalogue) {
                work = next;
            }
            let regulation = crate::regulation::recommended(&work, &valve, catalogue).unwrap_or_default();
            (work.clone(), Valve { regulation, ..valve }, heads)
        })
        .collect()
}

/// Names by area, numbered where an area takes more than one valve.
fn names(class: &Class<'_>, parts: &[std::ops::Range<usize>]) -> Vec<String> {
    let bare: Vec<String> = parts
        .iter()
        .map(|p| {
            let mut areas: Vec<&str> = class[p.clone()].iter().map(|c| c.group.name.as_str()).collect();
            areas.dedup();
            areas.truncate(3);
            areas.join(" + ")
        })
        .collect();
    bare.iter()
        .enumerate()
        .map(|(i, name)| {
            if bare.iter().filter(|b| *b == name).count() == 1 {
                return name.clone();
            }
            let nth = bare[..=i].iter().filter(|b| *b == name).count();
            format!("{name} {nth}")
        })
        .collect()
}

/// The smallest valve whose loss stays under 5 psi; low-flow for drip.
fn valve_for(flow: Flow, drip: bool, catalogue: &Catalogue) -> String {
    if drip && flow.gpm() < 10.0 {
        return "valve-drip-3/4in".into();
    }
    catalogue
        .devices_for(Role::Valve)
        .filter(|d| d.id != "valve-drip-3/4in" && d.id != "valve-3/4in")
        .find(|d| d.loss.at(flow) < Pressure::from_psi(5.0))
        .map_or_else(|| "valve-2in".into(), |d| d.id.clone())
}

/// Cuts a row of heads into `n` runs so that the largest flow is as small as it can be: the
/// smallest capacity under which filling greedily takes `n` runs, by bisection.
fn even_parts(class: &Class<'_>, n: usize) -> Vec<std::ops::Range<usize>> {
    let flows: Vec<f64> = class.iter().map(|c| c.flow.lpm()).collect();
    let fill = |capacity: f64| {
        let (mut parts, mut start, mut sum) = (Vec::new(), 0, 0.0);
        for (i, q) in flows.iter().enumerate() {
            let left = flows.len() - i;
            let must_cut = left == n.saturating_sub(parts.len() + 1) && i > start;
            if i > start && (sum + q > capacity || must_cut) {
                parts.push(start..i);
                (start, sum) = (i, 0.0);
            }
            sum += q;
        }
        parts.push(start..flows.len());
        parts
    };
    let (mut low, mut high) = (
        flows.iter().copied().fold(0.0, f64::max),
        flows.iter().sum::<f64>(),
    );
    for _ in 0..50 {
        let middle = (low + high) / 2.0;
        if fill(middle).len() > n {
            low = middle
        } else {
            high = middle
        }
    }
    fill(high * (1.0 + 1e-9))
}

/// What is wrong with a proposed zone.
struct Unfit {
    /// It exceeds the design flow; otherwise it may stand where nothing better is found.
    must: bool,
    text: String,
}

/// Why a proposed zone can't stand.
fn unfit(plan: &Plan, valve: &Valve, design: Option<Flow>, catalogue: &Catalogue) -> Option<Unfit> {
    let soft = |text| Some(Unfit { must: false, text });
    let units = plan.units;
    let zone: ZoneAssessment = match assess_zone(plan, valve, catalogue) {
        Ok(zone) => zone,
        // Without water figures the split goes by nominal flows alone.
        Err(_) => return None,
    };
    if let Some(design) = design
        && zone.flow > design * (1.0 + 1e-9)
    {
        return Some(Unfit {
            must: true,
            text: format!(
                "the heads really take {} at the pressure they get",
                zone.flow.show(units)
            ),
        });
    }
    for group in &plan.groups {
        let flow: Flow = zone
            .heads
            .iter()
            .filter(|h| h.head.group == group.id)
            .map(|h| h.flow)
            .sum();
        let pipe = group.feed_pipe.as_ref().unwrap_or(&group.pipe);
        if let Some(pipe) = catalogue.pipe(pipe)
            && flow > Flow::at_speed(pipe.inside, plan.rules.velocity_watch)
        {
            return soft(format!(
                "{} carries no more than {} at {}",
                pipe.title(),
                Flow::at_speed(pipe.inside, plan.rules.velocity_watch).show(units),
                plan.rules.velocity_watch.show(units)
            ));
        }
    }
    let low = zone.lowest();
    if low.nozzle < low.band.1 {
        return soft(format!(
            "the last head would get {} of the {} it needs",
            low.nozzle.show(units),
            low.band.1.show_round(units)
        ));
    }
    None
}

//! The split: heads into classes that may share, classes into valves of even flow, each checked by
//! solving it.

use super::class::{Candidate, Class, Own, Water, at_least, classes, flow_at};
use super::keep::{Called, areas_of, fitted, matched, named};
use super::place::Places;
use super::whole;
use crate::assembly::at_tap;
use crate::catalogue::Pipe;
use crate::findings::{Check, hydraulic_findings, regulator_holds};
use crate::job::Job;
use crate::plan::{Edit, HeadGroup, HeadRef, PipeLeg, Regulation, Valve, WaterSource, is_named_by_area};
use crate::progress::Progress;
use crate::regulation::recommended;
use crate::units::{Flow, Pressure, Speed};
use crate::water::{Aim, Allowance};
use crate::zone::zone_of;
use std::collections::BTreeSet;

/// Which heads a proposal may place.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Scope {
    /// Those on no valve.
    Unassigned,
    /// All but those on locked valves.
    All,
}

/// Why a class took more valves than the least.
#[derive(Debug, Clone, PartialEq)]
pub struct MoreValves {
    /// Its first area.
    pub area: String,
    /// Valves that it took.
    pub valves: usize,
    /// The least.
    pub least: usize,
    /// What was wrong with fewer.
    pub since: Option<Unfit>,
}

/// A split, ready to be applied.
#[derive(Debug, Clone, PartialEq)]
pub struct Proposal {
    /// What it changes; none: nothing to place.
    pub edit: Option<Edit>,
    /// Valves that the heads in scope take.
    pub valves: usize,
    /// Why more than the least were needed.
    pub why: Vec<MoreValves>,
    /// Classes that no number of valves helps.
    pub hopeless: Vec<Hopeless>,
}

/// Heads that no number of valves helps.
#[derive(Debug, Clone, PartialEq)]
pub struct Hopeless {
    /// Their first area.
    pub area: String,
    /// Why.
    pub why: NoHope,
}

/// Why no number of valves helps.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum NoHope {
    /// At the pressure that the heads want the connection leaves not a quarter of one head's flow.
    NoFlow,
    /// Each starves alone on a valve.
    Starves {
        /// What the best off of them gets.
        gets: Pressure,
        /// The least of its band.
        needs: Pressure,
    },
}

/// An edit with what puts the heads that it leaves on no valve onto one, as one step: on the valve
/// that the listed heads of their group are on already, else as the split proposes. An edit that
/// can't be applied comes back as it is: whoever applies it says why.
pub fn put_on_valves(job: &Job, water: &[Water], edit: Edit) -> Edit {
    let Ok((mut work, _)) = job.apply(&edit) else {
        return edit;
    };
    let mut edits = vec![edit];
    let mut add = |work: &mut Job, edit: Edit| {
        if let Ok((next, _)) = work.apply(&edit) {
            *work = next;
            edits.push(edit);
        }
    };
    for group in work.groups.clone() {
        let loose = group.heads_on(None);
        let home = group.listed.iter().rev().find_map(|l| l.valve.clone());
        if let (false, Some(home)) = (loose.is_empty(), home) {
            add(&mut work, Edit::assign(loose, Some(home)));
        }
    }
    if let Some(edit) = propose(&work, water, Scope::Unassigned).edit {
        add(&mut work, edit);
    }
    if edits.len() == 1 { edits.remove(0) } else { Edit::batch(edits) }
}

/// Takes a group of heads away, and with it the valves that watered nothing else, as one step.
pub fn remove_group(job: &Job, id: &str) -> Edit {
    let mut edits = vec![Edit::remove::<HeadGroup>(id)];
    let others = |valve: &Valve| job.groups.iter().any(|g| g.id != id && g.is_on(&valve.id));
    let emptied = job.valves.iter().filter(|v| job.group(id).is_some_and(|g| g.is_on(&v.id)) && !others(v));
    edits.extend(emptied.map(|v| Edit::remove::<Valve>(v.id.clone())));
    if edits.len() == 1 { edits.remove(0) } else { Edit::batch(edits) }
}

/// Proposes valves for the heads in scope, each class by its own figure. No zone of the proposal takes
/// more than the connection allows unless a single head does.
///
/// Heads of a class are cut into n runs of even flow, n from the least that could do; each run is regulated
/// as its zone wants, solved, and held against the connection's flow, the velocities, the bottom of the band
/// and the aim. The fewest valves without a fault are taken, else the fewest with the mildest. An area lies
/// on valves of its own, or all of it on one with other whole areas. A valve that stands keeps what was
/// decided of it: its name, number, model, filter and regulator while they suit what it then waters.
/// Deterministic: the same plan gives the same proposal.
///
/// # Source
/// Flow over limit, rounded up, as installers count; the smallest largest run by bisection.
pub fn propose(job: &Job, water: &[Water], scope: Scope) -> Proposal {
    propose_watched(job, water, scope, &Progress::default())
}

/// The same, telling how far it is: two steps for each zone that is put together and solved on trial. Nobody knows beforehand how
/// many trials a class takes, so what is expected grows with them. Stopped it gives what there was by then, which is to
/// be thrown away.
pub fn propose_watched(job: &Job, water: &[Water], scope: Scope, progress: &Progress) -> Proposal {
    let locked = |on: Option<&str>| on.is_some_and(|v| job.valve(v).is_some_and(|v| v.locked));
    let wanted = |_: &HeadRef, on: Option<&str>| match scope {
        Scope::Unassigned => on.is_none(),
        Scope::All => !locked(on),
    };
    let mut edits = Vec::new();
    let mut work = job.clone();
    let push = |work: &mut Job, edit: &Edit| match work.apply(edit) {
        Ok((next, _)) => {
            *work = next;
            true
        }
        Err(_) => false,
    };
    let mut old: Vec<&Valve> = Vec::new();
    if scope == Scope::All {
        old.extend(job.valves.iter().filter(|v| !v.locked));
        for valve in &old {
            push(&mut work, &Edit::remove::<Valve>(valve.id.clone()));
        }
    }
    let (mut valves, mut why, mut hopeless) = (0, Vec::new(), Vec::new());
    let mut new: Vec<(Valve, Vec<HeadRef>)> = Vec::new();
    let mut called: Vec<Called> = Vec::new();
    let parts = classes(job, wanted).into_iter().flat_map(|c| by_connection(job, c));
    for (supply, class) in parts {
        if progress.stopped() {
            break;
        }
        // Valves that watered these heads before.
        let served = |v: &&Valve| class.iter().any(|c| c.on == Some(v.id.as_str()));
        let mine: Vec<&Valve> = old.iter().copied().filter(|v| v.supply == supply).filter(served).collect();
        let own = water.iter().find(|w| w.supply == supply);
        let limit = own.and_then(|w| w.limit);
        // Every class goes by its own figure: what it wants at its nozzles is no other's concern.
        let figure = |piped| own.map_or(Own::UNKNOWN, |w| w.own(&work, &class, mine.first().copied(), piped));
        let goal = Goal { limit, own: figure(true), floor: figure(false).flow };
        let Split { zones, more, wider, no_hope } =
            split_class(&work, job, &class, &supply, &mine, &goal, progress);
        hopeless.extend(no_hope.map(|why| Hopeless { area: class[0].group.name.clone(), why }));
        valves += zones.len();
        why.extend(more);
        for group in wider {
            push(&mut work, &Edit::put(group.clone()));
            // In the job as it stands its heads are on their valves.
            edits.extend(
                job.group(&group.id).map(|g| {
                    Edit::put(HeadGroup { pipe: group.pipe, feed_pipe: group.feed_pipe, ..g.clone() })
                }),
            );
        }
        for Zone { valve, heads, areas } in zones {
            let was = job.valve(&valve.id);
            old.retain(|v| v.id != valve.id);
            called.push(Called {
                id: valve.id.clone(),
                areas,
                by_hand: was.is_some_and(|v| !is_named_by_area(job, v)),
                stood: was.is_some(),
            });
            push(&mut work, &Edit::put(valve.clone()));
            push(&mut work, &Edit::assign(heads.clone(), Some(valve.id.clone())));
            new.push((valve, heads));
        }
    }
    for named in named(&work, &called) {
        if let Some((valve, _)) = new.iter_mut().find(|(v, _)| v.id == named.id) {
            valve.name = named.name;
        }
    }
    edits.extend(new.into_iter().flat_map(|(valve, heads)| placed(job, valve, heads)));
    edits.extend(old.into_iter().map(|v| Edit::remove::<Valve>(v.id.clone())));
    let edit = (!edits.is_empty()).then_some(Edit::batch(edits));
    Proposal { edit, valves, why, hopeless }
}

/// What of a valve and its heads is not so already. The lateral of a valve whose heads change is taken up:
/// it would run to heads that are no longer its own.
fn placed(job: &Job, valve: Valve, heads: Vec<HeadRef>) -> Vec<Edit> {
    let id = valve.id.clone();
    let mut edits = Vec::new();
    let was = job.valve(&id);
    let now: BTreeSet<HeadRef> = heads.into_iter().collect();
    let before: BTreeSet<HeadRef> = job.groups.iter().flat_map(|g| g.heads_on(Some(&id))).collect();
    if was.is_some() && before != now {
        let lateral = job.piping.legs.iter().filter(|l| l.valve() == Some(id.as_str()));
        edits.extend(lateral.map(|l| Edit::remove::<PipeLeg>(l.id.clone())));
    }
    if was != Some(&valve) {
        edits.push(Edit::put(valve));
    }
    let come: Vec<HeadRef> = now.difference(&before).cloned().collect();
    if !come.is_empty() {
        edits.push(Edit::assign(come, Some(id)));
    }
    edits
}

/// A class by point of connection: heads stay on the water that they are on; those on no valve come
/// to the first of the class, else to the first of the job.
fn by_connection<'a>(job: &Job, class: Class<'a>) -> Vec<(String, Class<'a>)> {
    let own = |c: &Candidate<'_>| Some(job.valve(c.on?)?.supply.clone());
    let own: Vec<Option<String>> = class.iter().map(own).collect();
    let first = own.iter().flatten().next().cloned();
    let Some(first) = first.or_else(|| job.supplies.first().map(|s| s.id.clone())) else {
        return Vec::new();
    };
    let mut parts: Vec<(String, Class<'a>)> = Vec::new();
    for (candidate, own) in class.into_iter().zip(own) {
        let supply = own.unwrap_or_else(|| first.clone());
        match parts.iter_mut().find(|p| p.0 == supply) {
            Some(part) => part.1.push(candidate),
            None => parts.push((supply, vec![candidate])),
        }
    }
    parts
}

/// A valve of a split with its heads.
struct Zone {
    valve: Valve,
    heads: Vec<HeadRef>,
    /// What its areas are called.
    areas: String,
}

/// A class on its valves.
struct Split {
    zones: Vec<Zone>,
    more: Option<MoreValves>,
    /// Drawn groups whose pipe has to be wider for the flow of their zones.
    wider: Vec<HeadGroup>,
    /// No number of valves helps.
    no_hope: Option<NoHope>,
}

/// From so many valves on their number is not tried one by one.
const MANY_VALVES: usize = 12;
/// Widest lateral that a split reckons with, in: 2 in pipe.
const WIDEST_LATERAL_IN: f64 = 2.2;

/// Drawn groups with pipe that carries so much at the house's velocity: legs get their own sizes once they
/// are routed, so no valve is split off for a pipe that nobody has bought. Listed groups keep theirs.
fn wider(job: &Job, class: &Class<'_>, flow: Flow) -> Vec<HeadGroup> {
    let mut groups: Vec<&HeadGroup> = class.iter().map(|c| c.group).filter(|g| g.is_drawn()).collect();
    groups.dedup_by(|a, b| a.id == b.id);
    let widened = |group: &&HeadGroup| {
        let mut sizes: Vec<&Pipe> = job
            .catalogue()
            .pipes
            .iter()
            .filter(|p| p.material == group.pipe.material && p.inside.inches() <= WIDEST_LATERAL_IN)
            .collect();
        sizes.sort_by(|a, b| a.inside.m().total_cmp(&b.inside.m()));
        let own = job.catalogue().pipe(&group.pipe)?;
        let carries = |p: &Pipe| Flow::at_speed(p.inside, job.rules.velocity_watch) >= flow;
        let enough = sizes.iter().find(|p| carries(p)).or(sizes.last())?;
        (enough.inside > own.inside).then(|| HeadGroup {
            pipe: enough.id(),
            feed_pipe: None,
            ..job.group(&group.id).cloned().unwrap_or_else(|| (*group).clone())
        })
    };
    groups.iter().filter_map(widened).collect()
}

/// What every valve of a class is held to.
struct Goal {
    /// What the connection allows.
    limit: Option<Flow>,
    /// The class's own figure, and its aim.
    own: Own,
    /// The same if only the chain cost anything: no fewer valves are worth trying.
    floor: Option<Flow>,
}

impl Goal {
    /// Whether no number of valves helps, told what a head starves of alone on a valve, if it does. What drip
    /// draws at an inlet is many emitters': less of them may do.
    fn no_hope(
        &self,
        class: &Class<'_>,
        starves_alone: impl Fn(usize) -> Option<(Pressure, Pressure)>,
    ) -> Option<NoHope> {
        let heads = || (0..class.len()).filter(|i| class[*i].group.drip.is_none());
        let least = heads().map(|i| class[i].flow).reduce(Flow::min)?;
        if self.limit.is_some_and(|limit| limit < least * 0.25) {
            return Some(NoHope::NoFlow);
        }
        let starved: Option<Vec<_>> = heads().map(starves_alone).collect();
        let short = |s: &(Pressure, Pressure)| s.1 - s.0;
        let best = starved?.into_iter().min_by(|a, b| short(a).kpa().total_cmp(&short(b).kpa()));
        best.map(|(gets, needs)| NoHope::Starves { gets, needs })
    }
}

fn split_class(
    job: &Job,
    before: &Job,
    class: &Class<'_>,
    supply: &str,
    old: &[&Valve],
    goal: &Goal,
    progress: &Progress,
) -> Split {
    let Goal { limit, own, floor } = *goal;
    let total = flow_at(job, class, own.aim);
    let least = at_least(total, floor);
    // Pressure that does not come right with a few more valves does not come right with many.
    let patience = 2 * at_least(total, own.flow) + 2;
    let mut since = None;
    let places = Places::of(job, class);
    // The fewest valves of those with the least grave fault.
    let mut best: Option<(Grave, Vec<Zone>, Vec<HeadGroup>)> = None;
    // One head may want more than there is: it still gets a valve, and the checks say the rest.
    let starves_alone = |i: usize| {
        progress.expect_more(1);
        let zones = build(job, before, class, supply, old, &[vec![i]], progress);
        zones.iter().find_map(|(job, held, _)| starves(job, held))
    };
    let no_hope = goal.no_hope(class, starves_alone);
    let most = if no_hope.is_some() { 1 } else { class.len() };
    let mut n = least.min(most);
    while n <= most && !progress.stopped() {
        let parts = whole::parts(class, places.as_ref(), n);
        let largest = parts.iter().map(|p| p.iter().map(|i| class[*i].flow).sum::<Flow>());
        let wider = wider(job, class, largest.reduce(Flow::max).unwrap_or_default());
        let wide = wider.iter().fold(job.clone(), |job, group| {
            let put = Edit::put(group.clone());
            job.apply(&put).map_or(job.clone(), |a| a.0)
        });
        progress.expect_more(2 * parts.len());
        let zones = build(&wide, before, class, supply, old, &parts, progress);
        let held = |(job, held, _): &(Job, Valve, Zone)| {
            progress.step();
            unfit(job, held, limit, own.aim)
        };
        let faults: Vec<Unfit> = zones.iter().filter_map(held).collect();
        let worst = faults.iter().max_by_key(|f| f.grave());
        let grave = worst.map_or(Grave::Not, Unfit::grave);
        if best.as_ref().is_none_or(|b| grave < b.0 || b.0 == Grave::Must) {
            best = Some((grave, zones.into_iter().map(|z| z.2).collect(), wider));
        }
        since = worst.cloned().or(since);
        let done = best.as_ref().is_some_and(|b| b.0 < Grave::Must);
        if grave == Grave::Not || n >= patience && done {
            break;
        }
        n = (n + 1).max(jump(n, worst, limit));
    }
    let (last, wider) = best.map(|b| (b.1, b.2)).unwrap_or_default();
    let (area, valves) = (class[0].group.name.clone(), last.len());
    let more = (valves > least).then_some(MoreValves { area, valves, least, since });
    Split { zones: last, more, wider, no_hope }
}

/// Among many valves the next number worth trying: as many more as the largest flow is over the limit.
fn jump(n: usize, worst: Option<&Unfit>, limit: Option<Flow>) -> usize {
    match (worst, limit) {
        (Some(Unfit::Flow(flow)), Some(limit)) if n >= MANY_VALVES => {
            (n as f64 * (*flow / limit)).floor() as usize
        }
        _ => 0,
    }
}

/// A valve for each part, with a job in which it can be solved: the one that most of its heads are on
/// already, with what was decided of it, else a new one, regulated as its zone wants. Whether it stands is
/// asked of it as proposed (the valve in the middle), so that a regulator that is kept decides no number of
/// valves; where its heads are just those that it has it is asked as it is.
fn build(
    job: &Job,
    before: &Job,
    class: &Class<'_>,
    supply: &str,
    old: &[&Valve],
    parts: &[Vec<usize>],
    progress: &Progress,
) -> Vec<(Job, Valve, Zone)> {
    let catalogue = job.catalogue();
    let is_drip = |nozzle: &str| catalogue.nozzle(nozzle).is_some_and(|z| z.kind.is_drip());
    let drip = class.iter().any(|c| is_drip(&c.group.nozzle));
    let tap = job.supply(supply).is_some_and(|s| s.water == WaterSource::Tap);
    let mut work = job.clone();
    let home = old.first();
    let zone = |(part, was): (&Vec<usize>, Option<&Valve>)| {
        let flow: Flow = part.iter().map(|i| class[*i].flow).sum();
        let (model, filter) = fitted(catalogue, was, flow, drip);
        let heads: Vec<HeadRef> = part.iter().map(|i| class[*i].head.clone()).collect();
        let areas = areas_of(class, part);
        let same = was.is_some_and(|v| {
            let on: usize = before.groups.iter().map(|g| g.heads_on(Some(&v.id)).len()).sum();
            on == heads.len() && part.iter().all(|i| class[*i].on == Some(v.id.as_str()))
        });
        let valve = match was {
            Some(was) => Valve { model, filter, ..was.clone() },
            None if tap => at_tap(Valve::new(&new_id(before, &work), &areas, supply), drip),
            None => Valve {
                model,
                filter,
                valve_box: home.and_then(|h| h.valve_box.clone()),
                mainline: home.and_then(|h| h.mainline.clone()),
                ..Valve::new(&new_id(before, &work), &areas, supply)
            },
        };
        let bare = Valve { regulation: Regulation::None, ..valve.clone() };
        let assign = Edit::assign(heads.clone(), Some(valve.id.clone()));
        if let Ok((next, _)) = work.apply(&Edit::batch(vec![Edit::put(bare.clone()), assign])) {
            work = next;
        }
        let wanted = recommended(&work, &bare).unwrap_or_default();
        // Without a regulator is how a valve begins, and no choice of anybody's.
        let decided = was.filter(|v| same || v.regulation != Regulation::None);
        let regulation = match decided.map(|v| v.regulation) {
            Some(own) if own == wanted || does_as_well(&work, &bare, own, wanted) => own,
            _ => wanted,
        };
        let held = Valve { regulation: if same { regulation } else { wanted }, ..valve.clone() };
        let valve = Valve { regulation, ..valve };
        progress.step();
        (work.clone(), held, Zone { valve, heads, areas })
    };
    let run = parts.iter().zip(matched(class, parts, old));
    run.take_while(|_| !progress.stopped()).map(zone).collect()
}

/// A name for a valve that neither the job as it stands nor the one that is being split has.
fn new_id(before: &Job, work: &Job) -> String {
    (1..)
        .map(|n| format!("v{n}"))
        .find(|id| !before.has_id(id) && !work.has_id(id))
        .expect("numbers do not run out")
}

/// Whether a zone with its own regulator gets no less at its last head, and no more than its band at its
/// first, than with the one that would be proposed.
fn does_as_well(job: &Job, valve: &Valve, own: Regulation, wanted: Regulation) -> bool {
    let solved = |regulation| {
        let valve = Valve { regulation, ..valve.clone() };
        zone_of(job, &valve).ok()
    };
    let (Some(own), Some(wanted)) = (solved(own), solved(wanted)) else {
        return true;
    };
    let (low, high) = (own.lowest(), own.highest());
    let least = low.band.least.min(wanted.lowest().nozzle);
    let most = high.band.most.max(wanted.highest().highest);
    // The same that a regulator is proposed by.
    low.nozzle.reaches(least) && !high.highest.exceeds(most) && regulator_holds(job, &own)
}

/// Why a proposed zone can't stand.
#[derive(Debug, Clone, PartialEq)]
pub enum Unfit {
    /// The heads take more than the design flow at the pressure they get.
    Flow(Flow),
    /// A pipe is too small for its flow.
    Pipe {
        /// The pipe, for people.
        pipe: String,
        /// What it carries.
        carries: Flow,
        /// At this velocity.
        at: Speed,
    },
    /// The last head would get less than is aimed at, but within its band.
    BelowAim {
        /// What it would get.
        gets: Pressure,
        /// What is aimed at.
        aim: Pressure,
    },
    /// The last head would starve.
    Starves {
        /// What it would get.
        gets: Pressure,
        /// The least of its band.
        needs: Pressure,
    },
}

/// How bad it would be to let a fault stand.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
enum Grave {
    Not,
    Soft,
    Hard,
    Must,
}

impl Unfit {
    fn grave(&self) -> Grave {
        match self {
            Self::BelowAim { .. } => Grave::Soft,
            Self::Pipe { .. } | Self::Starves { .. } => Grave::Hard,
            Self::Flow(_) => Grave::Must,
        }
    }
}

/// What the last head of a zone gets and the bottom of its band, where it gets less.
fn starves(job: &Job, valve: &Valve) -> Option<(Pressure, Pressure)> {
    let zone = zone_of(job, valve).ok()?;
    zone.starved().map(|low| (low.nozzle, low.band.least))
}

/// Share of its aim from which no valve more is worth what it brings: no gauge in the field tells it. The checks say it.
const AIM_WITHIN: f64 = 0.95;

/// The gravest that the checks would say of a proposed zone.
fn unfit(job: &Job, valve: &Valve, limit: Option<Flow>, aim: Aim) -> Option<Unfit> {
    // Without water figures the split goes by nominal flows alone.
    let zone = zone_of(job, valve).ok()?;
    let allowance = Allowance { flow: limit, assumed: false, aim };
    let found = hydraulic_findings(job, valve, &zone, &allowance);
    let too_small = |pipe: String, velocity: Speed, at: Speed| Unfit::Pipe {
        pipe,
        carries: zone.flow * (at.fps() / velocity.fps()),
        at,
    };
    let of = |check: &Check| match check {
        Check::FlowOverDesign { flow, .. } => Some(Unfit::Flow(*flow)),
        Check::HeadStarved { arrives, band, .. } => {
            Some(Unfit::Starves { gets: *arrives, needs: band.least })
        }
        Check::Velocity { velocity, watch, .. } => Some(too_small(lateral_of(job, valve), *velocity, *watch)),
        Check::ServiceVelocity { shared, .. } => {
            Some(too_small(shared.pipe.clone(), shared.velocity, shared.limit))
        }
        Check::BelowAim { gets, aim, .. } if !gets.reaches(*aim * AIM_WITHIN) => {
            Some(Unfit::BelowAim { gets: *gets, aim: *aim })
        }
        _ => None,
    };
    found.iter().filter_map(|f| of(&f.check)).max_by_key(Unfit::grave)
}

/// The pipe that leads to the heads of a valve, for people.
fn lateral_of(job: &Job, valve: &Valve) -> String {
    let group = job.groups.iter().find(|g| g.is_on(&valve.id));
    let pipe = group.and_then(|g| job.catalogue().pipe(g.feed_pipe.as_ref().unwrap_or(&g.pipe)));
    pipe.map_or_else(String::new, Pipe::title)
}

//! The split: heads into classes that may share, classes into valves of even flow, each checked by
//! solving it.

use super::class::{Candidate, Class, Own, Water, at_least, classes, flow_at};
use super::fit::shared_velocities;
use super::place::Places;
use crate::catalogue::Pipe;
use crate::job::Job;
use crate::plan::{Assembly, Edit, HeadGroup, HeadRef, Regulation, Valve};
use crate::regulation::recommended;
use crate::units::{Flow, Pressure, Speed};
use crate::water::Aim;
use crate::zone::zone_of;

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
    if edits.len() == 1 {
        edits.remove(0)
    } else {
        Edit::batch(edits)
    }
}

/// Takes a group of heads away, and with it the valves that watered nothing else, as one step.
pub fn remove_group(job: &Job, id: &str) -> Edit {
    let mut edits = vec![Edit::remove::<HeadGroup>(id)];
    let others = |valve: &Valve| job.groups.iter().any(|g| g.id != id && g.is_on(&valve.id));
    let emptied = job
        .valves
        .iter()
        .filter(|v| job.group(id).is_some_and(|g| g.is_on(&v.id)) && !others(v));
    edits.extend(emptied.map(|v| Edit::remove::<Valve>(v.id.clone())));
    if edits.len() == 1 {
        edits.remove(0)
    } else {
        Edit::batch(edits)
    }
}

/// Proposes valves for the heads in scope, each class by its own figure. No zone of the proposal takes
/// more than the connection allows unless a single head does.
///
/// Heads of a class are cut into n runs of even flow, n from the least that could do; each run is regulated as
/// its zone wants, solved, and held against the connection's flow, the velocities, the bottom of the band and
/// the aim. The fewest valves without a fault are taken, else the fewest with the mildest.
/// Deterministic: the same plan gives the same proposal.
///
/// # Source
/// Flow over limit, rounded up, as installers count; the smallest largest run by bisection.
pub fn propose(job: &Job, water: &[Water], scope: Scope) -> Proposal {
    let locked = |on: Option<&str>| on.is_some_and(|v| job.valve(v).is_some_and(|v| v.locked));
    let wanted = |_: &HeadRef, on: Option<&str>| match scope {
        Scope::Unassigned => on.is_none(),
        Scope::All => !locked(on),
    };
    let mut edits = Vec::new();
    let mut work = job.clone();
    let mut push = |work: &mut Job, edit: Edit| {
        if let Ok((next, _)) = work.apply(&edit) {
            *work = next;
            edits.push(edit);
        }
    };
    let mut homes: Vec<(String, Valve)> = Vec::new();
    if scope == Scope::All {
        for valve in job.valves.iter().filter(|v| !v.locked) {
            for g in job.groups.iter().filter(|g| g.is_on(&valve.id)) {
                homes.push((g.id.clone(), valve.clone()));
            }
            push(&mut work, Edit::remove::<Valve>(valve.id.clone()));
        }
    }
    let (mut valves, mut why) = (0, Vec::new());
    let mut new: Vec<String> = Vec::new();
    let parts = classes(job, wanted)
        .into_iter()
        .flat_map(|c| by_connection(job, c));
    for (supply, class) in parts {
        // The mainline of a valve that served these heads before.
        let served = |c: &Candidate<'_>| homes.iter().find(|h| h.0 == c.group.id && h.1.supply == supply);
        let home = class.iter().find_map(served).map(|h| &h.1);
        let own = water.iter().find(|w| w.supply == supply);
        let limit = own.and_then(|w| w.limit);
        // Every class goes by its own figure: what it wants at its nozzles is no other's concern.
        let figure = |piped| own.map_or(Own::UNKNOWN, |w| w.own(&work, &class, home, piped));
        let goal = Goal {
            limit,
            own: figure(true),
            floor: figure(false).flow,
        };
        let Split { zones, more, wider } = split_class(&work, &class, &supply, home, &goal);
        valves += zones.len();
        why.extend(more);
        for group in wider {
            push(&mut work, Edit::put(group));
        }
        for (valve, heads) in zones {
            let id = valve.id.clone();
            new.push(id.clone());
            push(&mut work, Edit::put(valve));
            push(&mut work, Edit::assign(heads, Some(id)));
        }
    }
    for valve in renamed(&work, &new) {
        push(&mut work, Edit::put(valve));
    }
    let edit = (!edits.is_empty()).then_some(Edit::batch(edits));
    Proposal { edit, valves, why }
}

/// New valves of one area that came of several classes, numbered through: no two are called the same.
fn renamed(job: &Job, new: &[String]) -> Vec<Valve> {
    let base = |name: &str| -> String {
        let number = name.rsplit_once(' ').filter(|(_, n)| n.parse::<u32>().is_ok());
        number.map_or(name, |(base, _)| base).to_owned()
    };
    let mine: Vec<&Valve> = job.valves.iter().filter(|v| new.contains(&v.id)).collect();
    let name = |(i, valve): (usize, &&Valve)| {
        let own = base(&valve.name);
        let alike = |v: &&&Valve| base(&v.name) == own;
        let twice = mine.iter().filter(|v| v.name == valve.name).count() > 1;
        let bare = mine.iter().any(|v| v.name == own) && mine.iter().filter(alike).count() > 1;
        let nth = mine[..=i].iter().filter(alike).count();
        let clash = twice
            || bare
            || mine
                .iter()
                .filter(alike)
                .any(|v| mine.iter().filter(|o| o.name == v.name).count() > 1);
        clash.then(|| Valve {
            name: format!("{own} {nth}"),
            ..(*valve).clone()
        })
    };
    mine.iter()
        .enumerate()
        .filter_map(name)
        .filter(|v| job.valve(&v.id) != Some(v))
        .collect()
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

type Zone = (Valve, Vec<HeadRef>);

/// A class on its valves.
struct Split {
    zones: Vec<Zone>,
    more: Option<MoreValves>,
    /// Drawn groups whose pipe has to be wider for the flow of their zones.
    wider: Vec<HeadGroup>,
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

fn split_class(job: &Job, class: &Class<'_>, supply: &str, home: Option<&Valve>, goal: &Goal) -> Split {
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
    let mut n = least.min(class.len());
    while n <= class.len() {
        let parts = match &places {
            Some(places) => places.zones(n),
            None => even_parts(class, n).into_iter().map(Iterator::collect).collect(),
        };
        let largest = parts
            .iter()
            .map(|p| p.iter().map(|i| class[*i].flow).sum::<Flow>());
        let wider = wider(job, class, largest.reduce(Flow::max).unwrap_or_default());
        let wide = wider.iter().fold(job.clone(), |job, group| {
            let put = Edit::put(group.clone());
            job.apply(&put).map_or(job.clone(), |a| a.0)
        });
        let zones = build(&wide, class, supply, home, &parts);
        let faults: Vec<Unfit> = zones
            .iter()
            .filter_map(|(job, valve, _)| unfit(job, valve, limit, own.aim))
            .collect();
        let worst = faults.iter().max_by_key(|f| f.grave());
        let grave = worst.map_or(Grave::Not, Unfit::grave);
        if best.as_ref().is_none_or(|b| grave < b.0 || b.0 == Grave::Must) {
            let zones = zones.into_iter().map(|(_, valve, heads)| (valve, heads));
            best = Some((grave, zones.collect(), wider));
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
    let more = (valves > least).then_some(MoreValves {
        area,
        valves,
        least,
        since,
    });
    Split {
        zones: last,
        more,
        wider,
    }
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

/// A valve for each part, regulated as its zone wants, with a job in which it can be solved.
fn build(
    job: &Job,
    class: &Class<'_>,
    supply: &str,
    home: Option<&Valve>,
    parts: &[Vec<usize>],
) -> Vec<(Job, Valve, Vec<HeadRef>)> {
    let catalogue = job.catalogue();
    let is_drip = |nozzle: &str| catalogue.nozzle(nozzle).is_some_and(|z| z.kind.is_drip());
    let drip = class.iter().any(|c| is_drip(&c.group.nozzle));
    let mut work = job.clone();
    parts
        .iter()
        .zip(names(class, parts))
        .map(|(part, name)| {
            let flow: Flow = part.iter().map(|i| class[*i].flow).sum();
            let valve = Valve {
                id: work.fresh_id('v'),
                name,
                supply: supply.to_owned(),
                valve_box: home.and_then(|h| h.valve_box.clone()),
                model: catalogue.valve_for(flow, drip).id.clone(),
                mainline: home.and_then(|h| h.mainline.clone()),
                filter: drip.then(|| catalogue.filter_for(flow).id.clone()),
                regulation: Regulation::None,
                locked: false,
                assembly: Assembly::default(),
            };
            let heads: Vec<HeadRef> = part.iter().map(|i| class[*i].head.clone()).collect();
            let assign = Edit::assign(heads.clone(), Some(valve.id.clone()));
            if let Ok((next, _)) = work.apply(&Edit::batch(vec![Edit::put(valve.clone()), assign])) {
                work = next;
            }
            let regulation = recommended(&work, &valve).unwrap_or_default();
            (work.clone(), Valve { regulation, ..valve }, heads)
        })
        .collect()
}

/// Names by area, numbered where an area takes more than one valve.
fn names(class: &Class<'_>, parts: &[Vec<usize>]) -> Vec<String> {
    let bare: Vec<String> = parts
        .iter()
        .map(|p| {
            let mut areas: Vec<&str> = p.iter().map(|i| class[*i].group.name.as_str()).collect();
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

fn unfit(job: &Job, valve: &Valve, limit: Option<Flow>, aim: Aim) -> Option<Unfit> {
    // Without water figures the split goes by nominal flows alone.
    let zone = zone_of(job, valve).ok()?;
    if let Some(limit) = limit
        && zone.flow > limit * (1.0 + 1e-9)
    {
        return Some(Unfit::Flow(zone.flow));
    }
    let low = zone.lowest();
    if low.nozzle < low.band.least {
        return Some(Unfit::Starves {
            gets: low.nozzle,
            needs: low.band.least,
        });
    }
    for group in &job.groups {
        let here = zone.heads.iter().filter(|h| h.head.group == group.id);
        let flow: Flow = here.map(|h| h.flow).sum();
        let pipe = group.feed_pipe.as_ref().unwrap_or(&group.pipe);
        let at = job.rules.velocity_watch;
        if let Some(pipe) = job.catalogue().pipe(pipe)
            && flow > Flow::at_speed(pipe.inside, at)
        {
            let carries = Flow::at_speed(pipe.inside, at);
            return Some(Unfit::Pipe {
                pipe: pipe.title(),
                carries,
                at,
            });
        }
    }
    let shared = job
        .supply(&valve.supply)
        .map(|s| shared_velocities(job, s, zone.flow));
    let fast = shared
        .unwrap_or_default()
        .into_iter()
        .find(|s| s.velocity > s.limit);
    if let Some(fast) = fast {
        return Some(Unfit::Pipe {
            carries: zone.flow * (fast.limit.fps() / fast.velocity.fps()),
            pipe: fast.pipe,
            at: fast.limit,
        });
    }
    let aim = aim.wanted(low.band, low.exponent == 0.0);
    (low.nozzle < aim).then_some(Unfit::BelowAim {
        gets: low.nozzle,
        aim,
    })
}

//! Routes proposed: boxes, a main for each point of connection, a lateral for each valve; as edits.

use super::boxes::{self, ProposedBox};
use super::lateral::{self, Need};
use super::roads::Roads;
use super::shared::{Planned, choose_together};
use super::tree::{Tree, join};
use crate::catalogue::{FittingSystem, PipeId};
use crate::earthwork::Ground;
use crate::earthwork::{BadPlace, bad_place};
use crate::earthwork::{Stretch, stretches};
use crate::job::Job;
use crate::plan::{Edit, Joint, JointKind, LegOf, PipeLeg, Supply, Valve, WaterSource};
use crate::progress::Progress;
use crate::site::{ObjectKind, PlaceKind, PlaceMark, Point, SiteObject};
use crate::zone::drawn_on;
use std::collections::HashSet;

/// What a proposal may lay anew.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Scope<'a> {
    /// Everything that is not kept.
    All,
    /// The lateral of one valve.
    Valve(&'a str),
}

impl<'a> Scope<'a> {
    /// What is to be sized once it is laid: the lateral alone, or all where its main is new as well.
    pub fn to_size(self, before: &Job) -> Option<&'a str> {
        match self {
            Self::All => None,
            Self::Valve(id) => {
                let supply = &before.valve(id)?.supply;
                before.piping.main(supply).next().map(|_| id)
            }
        }
    }
}

/// What could not be proposed, and why; the rest stands.
#[derive(Debug, Clone, PartialEq)]
pub enum RouteFault {
    /// The point of connection has no place on the plan: mark the meter or the water.
    NoConnection {
        /// Its id.
        supply: String,
    },
    /// No box can stand anywhere near.
    NoBox {
        /// The valve.
        valve: String,
    },
    /// A box stands where it can't.
    BadBox {
        /// The box.
        place: String,
        /// What is wrong there.
        why: BadPlace,
    },
    /// Nothing that may be dug leads there.
    NoWay {
        /// The head, box or valve.
        to: String,
    },
}

/// Routes, ready to be applied.
#[derive(Debug, Clone, PartialEq)]
pub struct Routes {
    /// What changes; none: nothing to lay.
    pub edit: Option<Edit>,
    /// What could not be laid.
    pub faults: Vec<RouteFault>,
}

/// Names for new joints and legs, counted on from the highest there is.
struct Names {
    joint: usize,
    leg: usize,
}

impl Names {
    fn of(job: &Job) -> Self {
        let highest = |letter: char, ids: &mut dyn Iterator<Item = &String>| {
            let number = |id: &String| id.strip_prefix(letter)?.parse::<usize>().ok();
            ids.filter_map(number).max().unwrap_or(0)
        };
        let taken = |letter: char| {
            let site = job.site.objects.iter().map(|o| &o.id);
            let heads = job.groups.iter().flat_map(|g| g.drawn.iter().map(|h| &h.id));
            let pipes = job.piping.legs.iter().map(|l| &l.id);
            let joints = job.piping.joints.iter().map(|j| &j.id);
            let rest = job.valves.iter().map(|v| &v.id).chain(job.groups.iter().map(|g| &g.id));
            highest(letter, &mut site.chain(heads).chain(pipes).chain(joints).chain(rest))
        };
        Self { joint: taken('j'), leg: taken('p') }
    }
    fn joint(&mut self) -> String {
        self.joint += 1;
        format!("j{}", self.joint)
    }
    fn leg(&mut self) -> String {
        self.leg += 1;
        format!("p{}", self.leg)
    }
}

/// Work in progress: the job with what was proposed so far, and the edits that led to it.
struct Work {
    job: Job,
    edits: Vec<Edit>,
    faults: Vec<RouteFault>,
    names: Names,
}

impl Work {
    fn push(&mut self, edits: Vec<Edit>) {
        if edits.is_empty() {
            return;
        }
        let edit = Edit::batch(edits);
        if let Ok((next, _)) = self.job.apply(&edit) {
            self.job = next;
            self.edits.push(edit);
        }
    }
}

/// Proposes boxes where valves have none, mains and laterals. What is kept stays; sizes are those that
/// velocity alone asks for: [`super::sizes`] makes them cheapest.
///
/// # Source
/// See `tree` for routes, `boxes` for boxes. Deterministic.
pub fn routes(job: &Job, scope: Scope<'_>) -> Routes {
    routes_watched(job, scope, &Progress::default())
}

/// The same, telling how far it is: a step for each lateral. Stopped it gives what there was by then, which is to be
/// thrown away.
pub fn routes_watched(job: &Job, scope: Scope<'_>, progress: &Progress) -> Routes {
    let ground = Ground::of(job);
    let mut work = Work { job: job.clone(), edits: Vec::new(), faults: Vec::new(), names: Names::of(job) };
    for supply in job.supplies.clone() {
        let with_heads = |v: &&Valve| v.supply == supply.id && !drawn_on(job, &v.id).is_empty();
        let valves: Vec<String> = job.valves.iter().filter(with_heads).map(|v| v.id.clone()).collect();
        let wanted: Vec<String> = match scope {
            Scope::All => valves,
            Scope::Valve(id) => valves.into_iter().filter(|v| v == id).collect(),
        };
        if wanted.is_empty() {
            continue;
        }
        put_in_boxes(&mut work, &ground, &supply.id, &wanted);
        // Crossings are looked for before what has to be joined.
        let mut ends: Vec<Point> = job.connection_point(&supply.id).into_iter().collect();
        let of_box = |id: &String| work.job.valve(id).and_then(|v| work.job.valve_point(v));
        ends.extend(wanted.iter().filter_map(of_box));
        ends.dedup();
        if scope == Scope::All || work.job.piping.main(&supply.id).next().is_none() {
            let lawns = Ground::for_mains(job);
            main(&mut work, &Roads::new(&lawns, &ends), &supply);
        }
        let roads = Roads::new(&ground, &ends);
        laterals(&mut work, &roads, &wanted, progress);
    }
    let edit = match work.edits.len() {
        0 => None,
        1 => work.edits.pop(),
        _ => Some(Edit::batch(work.edits)),
    };
    Routes { edit, faults: work.faults }
}

/// Gives valves without a box one; tells boxes that stand badly.
fn put_in_boxes(work: &mut Work, ground: &Ground, supply: &str, valves: &[String]) {
    let job = work.job.clone();
    let mut told = HashSet::new();
    for valve in valves.iter().filter_map(|id| job.valve(id)) {
        if let Some(id) = job.box_of(valve)
            && told.insert(id)
            && let Some(at) = job.pipe_end(id)
            && let Some(why) = bad_place(&job, ground, at)
        {
            let place = id.to_owned();
            work.faults.push(RouteFault::BadBox { place, why });
        }
    }
    let without: Vec<&Valve> =
        valves.iter().filter_map(|id| job.valve(id)).filter(|v| job.box_of(v).is_none()).collect();
    if without.is_empty() {
        return;
    }
    let found = boxes::propose(&job, ground, supply, &without);
    let mut edits = Vec::new();
    let mut numbers = (1..).map(|n| format!("b{n}")).filter(|id| job.site.object(id).is_none());
    let count = job.site.places(PlaceKind::ValveBox).count();
    let mut new = 0;
    for ProposedBox { at, known, valves } in found {
        let id = known.unwrap_or_else(|| {
            new += 1;
            let id = numbers.next().unwrap_or_default();
            edits.push(Edit::put(SiteObject {
                id: id.clone(),
                name: format!("Box {}", count + new),
                what: ObjectKind::Place(PlaceMark {
                    kind: PlaceKind::ValveBox,
                    at,
                    supply: Some(supply.to_owned()),
                }),
            }));
            id
        });
        for valve in valves.iter().filter_map(|v| job.valve(v)) {
            edits.push(Edit::put(Valve { valve_box: Some(id.clone()), ..valve.clone() }));
        }
    }
    work.push(edits);
    for valve in without {
        let boxed = work.job.valve(&valve.id).and_then(|v| work.job.box_of(v)).is_some();
        if !boxed {
            work.faults.push(RouteFault::NoBox { valve: valve.id.clone() });
        }
    }
}

/// The edits that take up what is to be laid anew, with joints that nothing else has.
fn take_up(job: &Job, of: &LegOf) -> Vec<Edit> {
    let gone: Vec<&PipeLeg> = job.piping.legs.iter().filter(|l| l.of == *of).collect();
    let mut edits: Vec<Edit> = gone.iter().map(|l| Edit::remove::<PipeLeg>(l.id.clone())).collect();
    for joint in &job.piping.joints {
        let ends_here = |l: &PipeLeg| l.from == joint.id || l.to == joint.id;
        let others = job.piping.legs.iter().any(|l| l.of != *of && ends_here(l));
        if !others && gone.iter().any(|l| ends_here(l)) {
            edits.push(Edit::remove::<Joint>(joint.id.clone()));
        }
    }
    edits
}

fn main(work: &mut Work, roads: &Roads<'_>, supply: &Supply) {
    let of = LegOf::Main(supply.id.clone());
    if work.job.piping.main(&supply.id).any(|l| l.kept) {
        return;
    }
    let Some(from) = work.job.connection_point(&supply.id) else {
        work.faults.push(RouteFault::NoConnection { supply: supply.id.clone() });
        return;
    };
    let mut names = vec![supply.id.clone()];
    let mut points = vec![from];
    for valve in work.job.valves.iter().filter(|v| v.supply == supply.id) {
        if let Some(id) = work.job.box_of(valve)
            && !names.iter().any(|n| n == id)
            && let Some(at) = work.job.pipe_end(id)
        {
            names.push(id.to_owned());
            points.push(at);
        }
    }
    if points.len() < 2 {
        return;
    }
    let tree = join(roads, &points);
    for place in &tree.cut_off {
        work.faults.push(RouteFault::NoWay { to: names[*place].clone() });
    }
    let pipe = main_pipe(&work.job, supply);
    let mut edits = take_up(&work.job, &of);
    edits.extend(legs_of(work, &tree, &names, of, &pipe));
    work.push(edits);
}

/// The laterals of valves, each beside what is dug for the others.
fn laterals(work: &mut Work, roads: &Roads<'_>, wanted: &[String], progress: &Progress) {
    let job = work.job.clone();
    let mut laid: Vec<(&Valve, Point, Vec<Need>)> = Vec::new();
    for id in wanted {
        if job.piping.lateral(id).any(|l| l.kept) {
            progress.step();
            continue;
        }
        let Some(valve) = job.valve(id) else { continue };
        match job.valve_point(valve) {
            Some(start) => laid.push((valve, start, lateral::needs(&job, valve))),
            None => work.faults.push(RouteFault::NoBox { valve: id.clone() }),
        }
    }
    let mut planned = Vec::new();
    for (valve, start, needs) in &laid {
        if progress.stopped() {
            return;
        }
        planned.push(Planned { options: lateral::options(&job, roads, valve, *start, needs), chosen: None });
        progress.step();
    }
    let anew = |leg: &PipeLeg| laid.iter().any(|(v, ..)| leg.valve() == Some(v.id.as_str()));
    let standing = job.piping.legs.iter().filter(|l| !anew(l));
    let fixed: Vec<Stretch> = standing.flat_map(|leg| stretches(&job, leg)).collect();
    choose_together(roads, &mut planned, &fixed);
    for ((valve, ..), planned) in laid.iter().zip(&planned) {
        if let Some(laid) = &planned.chosen {
            put_lateral(work, &job, valve, &laid.tree);
        }
    }
}

fn put_lateral(work: &mut Work, job: &Job, valve: &Valve, tree: &Tree) {
    let heads = drawn_on(job, &valve.id);
    let Some((group, ..)) = heads.first() else { return };
    let mut names = vec![valve.id.clone()];
    names.extend(heads.iter().map(|(_, _, h)| h.id.clone()));
    for place in &tree.cut_off {
        work.faults.push(RouteFault::NoWay { to: names[*place].clone() });
    }
    let of = LegOf::Lateral(valve.id.clone());
    let mut edits = take_up(job, &of);
    edits.extend(legs_of(work, tree, &names, of, &group.pipe));
    work.push(edits);
}

/// The pipe that mains begin with: of the laterals' make, else the usual one. What stands under the street's pressure is
/// pressure pipe, whatever the zones are: drip tube begins behind a regulator, or at a tap.
fn main_pipe(job: &Job, supply: &Supply) -> PipeId {
    let own = job.piping.main(&supply.id).next().map(|l| l.pipe.clone());
    let of_laterals = || {
        let drawn = job.groups.iter().filter(|g| g.is_drawn());
        let tube = |p: &PipeId| FittingSystem::of_material(&p.material) == Some(FittingSystem::Drip);
        drawn.map(|g| g.pipe.clone()).find(|p| supply.water == WaterSource::Tap || !tube(p))
    };
    let usual = || crate::usual::lateral(job.units);
    own.or_else(of_laterals).unwrap_or_else(usual)
}

/// A tree as joints and legs. Legs run from one thing with a name to the next, away from the first
/// point; bends lie in between.
fn legs_of(work: &mut Work, tree: &Tree, names: &[String], of: LegOf, pipe: &PipeId) -> Vec<Edit> {
    let around = tree.around();
    let mut edits = Vec::new();
    let mut named: Vec<Option<String>> = (0..tree.points.len()).map(|i| names.get(i).cloned()).collect();
    for i in names.len()..tree.points.len() {
        if around[i].len() > 2 {
            let id = work.names.joint();
            edits.push(Edit::put(Joint { id: id.clone(), kind: JointKind::Tee, at: tree.points[i] }));
            named[i] = Some(id);
        }
    }
    let sleeve_pipe = two_sizes_up(&work.job, pipe);
    let mut done = vec![false; tree.edges.len()];
    let mut open: std::collections::VecDeque<usize> = [0].into();
    while let Some(start) = open.pop_front() {
        for &first in &around[start] {
            if done[first] {
                continue;
            }
            let (mut at, mut edge) = (start, first);
            let (mut bends, mut sleeve) = (Vec::new(), false);
            let end = loop {
                done[edge] = true;
                sleeve |= tree.edges[edge].sleeve;
                at = if tree.edges[edge].a == at { tree.edges[edge].b } else { tree.edges[edge].a };
                if named[at].is_some() {
                    break at;
                }
                bends.push(tree.points[at]);
                let Some(next) = around[at].iter().find(|e| !done[**e]) else {
                    break at;
                };
                edge = *next;
            };
            let (Some(from), Some(to)) = (named[start].clone(), named[end].clone()) else {
                continue;
            };
            open.push_back(end);
            edits.push(Edit::put(PipeLeg {
                bends,
                sleeve: sleeve.then(|| sleeve_pipe.clone()),
                ..PipeLeg::straight(&work.names.leg(), of.clone(), &from, &to, pipe.clone())
            }));
        }
    }
    edits
}

/// A sleeve for a pipe: two sizes up of the same make, or the largest.
pub fn two_sizes_up(job: &Job, pipe: &PipeId) -> PipeId {
    let sizes: Vec<&crate::catalogue::Pipe> =
        job.catalogue().pipes.iter().filter(|p| p.material == pipe.material).collect();
    let at = sizes.iter().position(|p| p.size == pipe.size).unwrap_or(0);
    sizes
        .get((at + 2).min(sizes.len().saturating_sub(1)))
        .map_or_else(|| pipe.clone(), |p| PipeId { material: p.material.clone(), size: p.size.clone() })
}

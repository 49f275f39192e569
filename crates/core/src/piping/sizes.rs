//! Sizes for the drawn pipes of a job: mains first, then each lateral at the pressure and the flows that
//! its zone has when it is solved with them.

use super::lateral::{needs_at, sizes_like};
use super::looped::{Draw, LoopLeg, Looped};
use super::size::{Limits, Short, Size, SizeLeg, Sized, least_cost};
use crate::catalogue::PipeId;
use crate::job::Job;
use crate::plan::{Edit, LegOf, PipeLeg, SizeLegs, Valve};
use crate::progress::Progress;
use crate::units::{Flow, Length, Pressure};
use crate::water::Aim;
use crate::zone::{ZoneAssessment, drawn_on, zone_of};
use std::collections::HashMap;

/// Times that sizes and flows are worked out by one another.
const ROUNDS: usize = 4;
/// Share of what a zone has to spare that its main may spend; the lateral has the rest.
const MAIN_SHARE: f64 = 0.5;

/// What a pipe's sizes could not keep.
#[derive(Debug, Clone, PartialEq)]
pub struct SizeShort {
    /// The valve, or the point of connection of a main.
    pub of: LegOf,
    /// What is lacking.
    pub short: Short,
}

/// Sizes, ready to be applied.
#[derive(Debug, Clone, PartialEq)]
pub struct Sizes {
    /// What changes; none: nothing.
    pub edit: Option<Edit>,
    /// What could not be kept.
    pub short: Vec<SizeShort>,
    /// No cheaper sizes keep it all at these flows, leg lists by valve or main.
    pub proven: bool,
    /// What the pipe of those that close loops costs.
    pub loops: Vec<LoopCost>,
}

/// Pipe of a main or lateral with loops: what it costs and what none could cost less than.
#[derive(Debug, Clone, PartialEq)]
pub struct LoopCost {
    /// The valve, or the point of connection of a main.
    pub of: LegOf,
    /// By the house rules' prices.
    pub cost: f64,
    /// No choice of sizes costs less at these flows.
    pub bound: f64,
}

impl LoopCost {
    fn of(of: LegOf, sized: &Sized) -> Self {
        Self { of, cost: sized.cost, bound: sized.bound }
    }
}

/// Sizes of all drawn pipes at least cost; pinned ones stay. For one valve: its lateral alone.
pub fn sizes(job: &Job, only: Option<&str>) -> Sizes {
    sizes_watched(job, only, &Progress::default())
}

/// The same, telling how far it is: a step for each valve. Stopped it gives what there was by then, which is to be
/// thrown away.
pub fn sizes_watched(job: &Job, only: Option<&str>, progress: &Progress) -> Sizes {
    let mut work = job.clone();
    let mut found = Sizes { edit: None, short: Vec::new(), proven: true, loops: Vec::new() };
    if only.is_none() {
        for supply in &job.supplies {
            size_main(&mut work, &supply.id, &mut found);
        }
    }
    for valve in job.valves.iter().filter(|v| only.is_none_or(|id| v.id == id)) {
        if progress.stopped() {
            break;
        }
        size_lateral(&mut work, valve, &mut found);
        progress.step();
    }
    let changed: Vec<(String, PipeId)> = work
        .piping
        .legs
        .iter()
        .zip(&job.piping.legs)
        .filter(|(new, old)| new.pipe != old.pipe)
        .map(|(new, _)| (new.id.clone(), new.pipe.clone()))
        .collect();
    found.edit = (!changed.is_empty()).then_some(Edit::SizeLegs(SizeLegs { sizes: changed }));
    found
}

/// The legs of a main or lateral as a tree from its beginning, each behind the one that it hangs on, and
/// those that close loops of it.
pub(super) struct Line<'p> {
    pub(super) legs: Vec<&'p PipeLeg>,
    pub(super) parents: Vec<Option<usize>>,
    /// The named thing at the far end of each leg.
    pub(super) ends: Vec<&'p str>,
    /// Legs that close a loop, with the nodes that they join: 0 is the beginning, then the ends in their
    /// order.
    pub(super) closing: Vec<(&'p PipeLeg, (usize, usize))>,
}

impl<'p> Line<'p> {
    pub(super) fn of(start: &'p str, legs: impl Iterator<Item = &'p PipeLeg>) -> Self {
        let all: Vec<&PipeLeg> = legs.collect();
        let mut at_end: HashMap<&str, Vec<usize>> = HashMap::new();
        for (i, leg) in all.iter().enumerate() {
            at_end.entry(&leg.from).or_default().push(i);
            at_end.entry(&leg.to).or_default().push(i);
        }
        let mut line = Self { legs: Vec::new(), parents: Vec::new(), ends: Vec::new(), closing: Vec::new() };
        let mut seen: HashMap<&str, usize> = HashMap::from([(start, 0)]);
        let mut laid = vec![false; all.len()];
        let mut open = std::collections::VecDeque::from([(start, None)]);
        while let Some((here, parent)) = open.pop_front() {
            for &i in at_end.get(here).into_iter().flatten() {
                if std::mem::replace(&mut laid[i], true) {
                    continue;
                }
                let other = if all[i].from == here { &all[i].to } else { &all[i].from };
                if let Some(&there) = seen.get(other.as_str()) {
                    line.closing.push((all[i], (seen[here], there)));
                    continue;
                }
                seen.insert(other, line.legs.len() + 1);
                line.legs.push(all[i]);
                line.parents.push(parent);
                line.ends.push(other);
                open.push_back((other, Some(line.legs.len() - 1)));
            }
        }
        line
    }

    /// All legs, those that close loops behind the tree.
    fn all(&self) -> Vec<&'p PipeLeg> {
        let closing = self.closing.iter().map(|c| c.0);
        self.legs.iter().copied().chain(closing).collect()
    }

    /// With its loops, by what is drawn at one time.
    fn looped(
        &self,
        job: &Job,
        start: &str,
        sizes: &[(PipeId, Size)],
        running: Vec<Vec<(&str, Flow, Pressure)>>,
    ) -> Looped {
        let height = |id: &str| ground(job, id) - ground(job, start);
        let tree = (0..self.legs.len()).map(|i| (self.parents[i].map_or(0, |p| p + 1), i + 1));
        let ends = tree.chain(self.closing.iter().map(|c| c.1));
        let legs = self.all().into_iter().zip(ends).map(|(leg, ends)| LoopLeg {
            ends,
            length: length(job, leg),
            pinned: pinned(leg, sizes),
        });
        let draw = |(id, flow, wants): (&str, Flow, Pressure)| {
            let node = self.ends.iter().position(|e| *e == id)? + 1;
            (flow > Flow::ZERO).then_some(Draw { node, flow, wants })
        };
        let draws = |all: Vec<_>| -> Vec<Draw> { all.into_iter().filter_map(draw).collect() };
        Looped {
            heights: std::iter::once(Length::ZERO).chain(self.ends.iter().map(|e| height(e))).collect(),
            legs: legs.collect(),
            running: running.into_iter().map(draws).filter(|d| !d.is_empty()).collect(),
        }
    }

    /// As legs of a tree to be sized: by what each end wants and draws.
    fn to_size(
        &self,
        job: &Job,
        start: &str,
        sizes: &[(PipeId, Size)],
        at: impl Fn(&str) -> Option<(Flow, Pressure)>,
    ) -> Vec<SizeLeg> {
        self.legs
            .iter()
            .enumerate()
            .map(|(i, leg)| {
                let before = self.parents[i].map_or(start, |p| self.ends[p]);
                let own = at(self.ends[i]);
                SizeLeg {
                    parent: self.parents[i],
                    length: length(job, leg),
                    flow: own.map_or(Flow::ZERO, |o| o.0),
                    rise: ground(job, self.ends[i]) - ground(job, before),
                    pinned: pinned(leg, sizes),
                    wants: own.map(|o| o.1),
                }
            })
            .collect()
    }
}

fn ground(job: &Job, id: &str) -> Length {
    job.pipe_end(id).map_or(Length::ZERO, |p| job.ground(p))
}

fn length(job: &Job, leg: &PipeLeg) -> Length {
    let way = job.way_of(leg).unwrap_or_default();
    Length::from_m(way.windows(2).map(|w| w[0].distance(w[1])).sum())
}

/// The size of a leg, by place in the list, where that is pinned.
fn pinned(leg: &PipeLeg, sizes: &[(PipeId, Size)]) -> Option<usize> {
    sizes.iter().position(|s| s.0 == leg.pipe).filter(|_| leg.size_pinned)
}

fn with_sizes(job: &Job, legs: &[&PipeLeg], sized: &Sized, sizes: &[(PipeId, Size)]) -> Option<Job> {
    let pinned = |l: &PipeLeg| l.size_pinned;
    let new = legs
        .iter()
        .zip(&sized.sizes)
        .filter(|(l, _)| !pinned(l))
        .map(|(l, s)| (l.id.clone(), sizes[*s].0.clone()))
        .collect();
    job.apply(&Edit::SizeLegs(SizeLegs { sizes: new })).ok().map(|a| a.0)
}

fn size_lateral(work: &mut Job, valve: &Valve, found: &mut Sizes) {
    let Some(valve) = work.valve(&valve.id).cloned() else {
        return;
    };
    let heads: Vec<String> = drawn_on(work, &valve.id).iter().map(|h| h.2.id.clone()).collect();
    let of = LegOf::Lateral(valve.id.clone());
    // What only helps the neediest costs others nothing: the best aim that can be kept is kept.
    for aim in Aim::ALL {
        let job = work.clone();
        let mut flows: HashMap<String, Flow> = HashMap::new();
        let needs = needs_at(&job, &valve, aim);
        let nominal = needs.iter().map(|n| n.nominal).reduce(Pressure::max).unwrap_or_default();
        let mut margin = Pressure::ZERO;
        let mut job = job;
        let mut last: Option<Sized> = None;
        let mut loops = false;
        for _ in 0..ROUNDS {
            let Ok(zone) = zone_of(&job, &valve) else { return };
            let line = Line::of(&valve.id, job.piping.lateral(&valve.id));
            let Some(first) = line.legs.first() else { return };
            let sizes = sizes_like(&job, &first.pipe);
            for (id, result) in heads.iter().zip(drawn_results(&job, &valve, &zone)) {
                // Flows rise with pressure; less than nominal is not planned for while it may be had.
                flows.insert(id.clone(), result.unwrap_or(Flow::ZERO));
            }
            let wants = |id: &str| {
                let i = heads.iter().position(|h| h == id)?;
                let flow = flows.get(id).copied().unwrap_or(needs[i].flow).max(needs[i].flow * 0.5);
                Some((flow, needs[i].wants + margin))
            };
            let limits = Limits {
                inlet: zone.lateral_inlet,
                velocity: job.rules.velocity_watch,
                spread: Some(nominal * job.rules.spread),
                fittings: job.rules.fittings,
            };
            let only: Vec<Size> = sizes.iter().map(|s| s.1).collect();
            let sized = if line.closing.is_empty() {
                let mut legs = line.to_size(&job, &valve.id, &sizes, wants);
                gather_flows(&mut legs);
                least_cost(&legs, &only, limits)
            } else {
                let draws = heads.iter().filter_map(|id| wants(id).map(|w| (id.as_str(), w.0, w.1)));
                let looped = line.looped(&job, &valve.id, &sizes, vec![draws.collect()]);
                looped.least_cost(&only, limits)
            };
            let done = last.as_ref().is_some_and(|l| l.sizes == sized.sizes);
            let next = with_sizes(&job, &line.all(), &sized, &sizes);
            loops = !line.closing.is_empty();
            last = Some(sized);
            let Some(next) = next else { break };
            job = next;
            // Solved with these sizes a head may get a little less than the sizing thought.
            let Ok(solved) = zone_of(&job, &valve) else { break };
            let lack = heads
                .iter()
                .zip(drawn_inlets(&job, &valve, &solved))
                .filter_map(|(id, p)| Some(needs[heads.iter().position(|h| h == id)?].wants - p?))
                .reduce(Pressure::max)
                .unwrap_or_default();
            if lack.kpa() > 0.05 {
                margin = margin + lack;
            } else if done {
                break;
            }
        }
        let Some(sized) = last else { return };
        let short = sized.short;
        let lacks = matches!(short, Some(Short::Pressure(_)));
        if lacks && aim != Aim::AtLimit {
            continue;
        }
        found.proven &= sized.proven;
        if loops {
            found.loops.push(LoopCost::of(of.clone(), &sized));
        }
        *work = job;
        if let Some(short) = short {
            found.short.push(SizeShort { of, short });
        }
        return;
    }
}

/// Adds to every leg what the legs behind it carry.
fn gather_flows(legs: &mut [SizeLeg]) {
    for i in (0..legs.len()).rev() {
        if let Some(p) = legs[i].parent {
            legs[p].flow = legs[p].flow + legs[i].flow;
        }
    }
}

fn of_drawn<T>(
    job: &Job,
    valve: &Valve,
    zone: &ZoneAssessment,
    of: impl Fn(&crate::zone::HeadResult) -> T,
) -> Vec<Option<T>> {
    let result = |(group, index, _): &(&crate::plan::HeadGroup, u32, &crate::plan::DrawnHead)| {
        zone.head(&group.id, *index).map(&of)
    };
    drawn_on(job, &valve.id).iter().map(result).collect()
}

fn drawn_results(job: &Job, valve: &Valve, zone: &ZoneAssessment) -> Vec<Option<Flow>> {
    of_drawn(job, valve, zone, |h| h.flow)
}

fn drawn_inlets(job: &Job, valve: &Valve, zone: &ZoneAssessment) -> Vec<Option<Pressure>> {
    of_drawn(job, valve, zone, |h| h.inlet)
}

/// A main carries one zone at a time: every leg the largest of the zones behind it. It may cost what the
/// zones can spare: half of what their worst head has over its aim, or their regulator over its room.
fn size_main(work: &mut Job, supply: &str, found: &mut Sizes) {
    let job = work.clone();
    let line = Line::of(supply, job.piping.main(supply));
    let Some(first) = line.legs.first() else { return };
    let sizes = sizes_like(&job, &first.pipe);
    let only: Vec<Size> = sizes.iter().map(|s| s.1).collect();
    // Zones are solved on the widest main, so that what they can spare is not what it takes.
    let widest = sizes.len() - 1;
    let wide = Sized {
        sizes: vec![widest; line.legs.len() + line.closing.len()],
        cost: 0.0,
        bound: 0.0,
        proven: true,
        short: None,
    };
    let Some(wide) = with_sizes(&job, &line.all(), &wide, &sizes) else {
        return;
    };
    let mut wants: HashMap<String, (Flow, Pressure)> = HashMap::new();
    let mut inlet: Option<Pressure> = None;
    for valve in job.valves.iter().filter(|v| v.supply == supply) {
        let Ok(zone) = zone_of(&wide, valve) else { continue };
        let low = zone.lowest();
        let aim = Aim::Best.wanted(low.band, low.exponent == 0.0);
        let over = match &zone.regulator {
            Some(r) if r.flow_band.is_some() => r.room - job.rules.regulator_room,
            _ => low.nozzle - aim,
        };
        let spare = over.max(Pressure::ZERO) * MAIN_SHARE;
        let end = job.box_of(valve).unwrap_or(&valve.id).to_owned();
        let need = zone.valve_inlet - spare;
        let held = wants.entry(end).or_insert((Flow::ZERO, Pressure::ZERO));
        *held = (held.0.max(zone.flow), held.1.max(need));
        inlet = Some(inlet.map_or(zone.at_connection, |p| p.min(zone.at_connection)));
    }
    let Some(inlet) = inlet else { return };
    let limits =
        Limits { inlet, velocity: job.rules.velocity_watch, spread: None, fittings: job.rules.fittings };
    let of = LegOf::Main(supply.to_owned());
    let cheapest = |wants: &HashMap<String, (Flow, Pressure)>| {
        if line.closing.is_empty() {
            let mut legs = line.to_size(&job, supply, &sizes, |id| wants.get(id).copied());
            for i in (0..legs.len()).rev() {
                if let Some(p) = legs[i].parent {
                    legs[p].flow = legs[p].flow.max(legs[i].flow);
                }
            }
            return least_cost(&legs, &only, limits);
        }
        // In the order of the line, so that the same job always takes the same sizes.
        let ends = line.ends.iter().copied();
        let running = ends.filter_map(|id| wants.get(id).map(|w| vec![(id, w.0, w.1)])).collect();
        line.looped(&job, supply, &sizes, running).least_cost(&only, limits)
    };
    let mut sized = cheapest(&wants);
    if matches!(sized.short, Some(Short::Pressure(_))) {
        // Nothing can be spared: velocity alone decides, and what is lacking is said of the zone.
        for want in wants.values_mut() {
            want.1 = Pressure::ZERO;
        }
        sized = cheapest(&wants);
    }
    found.proven &= sized.proven;
    if !line.closing.is_empty() {
        found.loops.push(LoopCost::of(of.clone(), &sized));
    }
    if let Some(short) = sized.short {
        found.short.push(SizeShort { of, short });
    }
    if let Some(next) = with_sizes(&job, &line.all(), &sized, &sizes) {
        *work = next;
    }
}

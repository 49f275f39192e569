//! Emitters at plants, one by one, and the line that runs past them.

use super::DripFault;
use super::fed::{FedRing, fed_ring};
use super::laid::{Laid, LaidEmitter, LaidPlant, Part, Stuff};
use super::open::open_tube;
use crate::catalogue::{Kind, Pipe, PipeDuty};
use crate::job::Job;
use crate::plan::{EmitterJoin, HeadGroup, PlantLaying};
use crate::site::{ObjectKind, Point, WaterUse, to_segment};
use crate::units::{Flow, Length, Pressure};

/// Plants on one group at most.
const MOST_PLANTS: usize = 2_000;
/// Plants belong to an area when they stand in it or so near its edge, m.
const BESIDE: f64 = 0.3;
/// Rounds of straightening the line.
const ROUNDS: usize = 12;
/// Plants with so many emitters have the tube led round them.
const RING: usize = 4;
/// No micro tube is shorter, m.
const LEAD: f64 = 0.15;
/// Micro tube from a manifold reaches so far, m.
const MANIFOLD_REACH: f64 = 6.0;

/// Emitters at a plant by its canopy and thirst: one at a small plant, two at a shrub, three or four at a
/// small tree, six and more round a tree, one for each metre of canopy, at most 16.
///
/// # Source
/// Counts as practised; a third more where plants are thirsty, a quarter fewer where they are not.
pub fn emitters_for(canopy: Length, thirst: WaterUse) -> u32 {
    let base = match canopy.m() {
        c if c < 0.6 => 1.0,
        c if c < 1.5 => 2.0,
        c if c < 2.4 => 3.0,
        c if c < 4.0 => 4.0,
        c => c.round().clamp(6.0, 16.0),
    };
    let factor = match thirst {
        WaterUse::Low => 0.75,
        WaterUse::Medium => 1.0,
        WaterUse::High => 4.0 / 3.0,
    };
    (f64::round(base * factor).max(1.0) as u32).min(16)
}

/// A plant to be watered.
struct Stop {
    plant: String,
    at: Point,
    /// Of its canopy.
    across: f64,
    count: usize,
    /// What one emitter gives.
    flow: Flow,
    /// Its emitters are a ring that one feeds.
    ring: Option<FedRing>,
}

fn stops(job: &Job, group: &HeadGroup, laying: &PlantLaying) -> Result<Vec<Stop>, DripFault> {
    let id = group.area.as_deref().ok_or(DripFault::NoArea)?;
    let area = job.site.area(id).ok_or(DripFault::NoArea)?;
    let flow_of = |id: &str| job.catalogue().nozzle(id).map(|n| n.flow_for_arc(360));
    let usual = flow_of(&group.nozzle).ok_or(DripFault::NoEmitter)?;
    let edge: Vec<Point> = area.shape.outline.flat(0.05);
    let beside = |p: Point| {
        let mut sides = edge.iter().zip(edge.iter().cycle().skip(1));
        area.shape.contains(p) || sides.any(|(a, b)| to_segment(p, *a, *b) <= BESIDE)
    };
    let mut stops = Vec::new();
    for object in &job.site.objects {
        let ObjectKind::Plant(planting) = &object.what else {
            continue;
        };
        let other = laying.other.iter().find(|o| o.plant == object.id);
        let each = other.and_then(|o| o.each).or(laying.each);
        let nozzle = other.and_then(|o| o.nozzle.as_deref()).and_then(flow_of);
        let spots: Vec<Point> = planting.spots().into_iter().filter(|p| beside(*p)).collect();
        let flow = nozzle.unwrap_or(usual);
        let ring = match laying.joined == EmitterJoin::FedRing && !spots.is_empty() {
            true => {
                let micro = job.catalogue().pipe_of(PipeDuty::MicroTube).id();
                let ring = fed_ring(job.catalogue(), &micro, flow, planting.canopy, each);
                Some(ring.map_err(DripFault::RingTooTight)?)
            }
            false => None,
        };
        let by_canopy = || each.unwrap_or_else(|| emitters_for(planting.canopy, area.water_use));
        for at in spots {
            stops.push(Stop {
                plant: object.id.clone(),
                at,
                across: planting.canopy.m(),
                count: ring.as_ref().map_or_else(by_canopy, |r| r.count) as usize,
                flow: ring.as_ref().map_or(flow, |r| r.each),
                ring: ring.clone(),
            });
        }
    }
    match stops.len() {
        0 => Err(DripFault::NoPlants),
        n if n > MOST_PLANTS => Err(DripFault::TooMany(n)),
        _ => Ok(stops),
    }
}

/// Lays a line past the plants of a part, from its inlet, with their emitters.
pub(super) fn plants(
    job: &Job,
    group: &HeadGroup,
    laying: &PlantLaying,
    part: (usize, usize),
    inlet: Point,
    stuff: &Stuff,
) -> Result<Laid, DripFault> {
    let all = stops(job, group, laying)?;
    let m2 = group.area.as_deref().and_then(|a| job.site.area(a)).map_or(0.0, |a| a.shape.area_m2());
    let total: usize = all.iter().map(|s| s.count).sum();
    let order = route(inlet, &all.iter().map(|s| s.at).collect::<Vec<_>>());
    // Parts are neighbours along the line, with as nearly as many emitters each.
    let mut before = 0;
    let mine: Vec<&Stop> = order
        .into_iter()
        .filter_map(|i| {
            let stop = &all[i];
            let middle = before as f64 + stop.count as f64 / 2.0;
            before += stop.count;
            let lot = (middle / total.max(1) as f64 * part.1 as f64) as usize;
            (lot.min(part.1 - 1) == part.0).then_some(stop)
        })
        .collect();
    if mine.is_empty() {
        return Err(DripFault::NoPlants);
    }
    let mut line = Line { laid: Laid::at(inlet, stuff), at: 0, open: open_of(job, laying, stuff) };
    match laying.joined.outlets() {
        Some(outlets) => line.manifolds(&mine, outlets),
        None => mine.iter().for_each(|stop| line.past(stop, laying.joined)),
    }
    let mut laid = line.laid;
    laid.ground_m2 = m2 * laid.emitters.len() as f64 / total.max(1) as f64;
    let last = laid.tubes.iter().rev().find(|t| t.part == Part::Line);
    laid.flushed = last.map(|t| t.to).into_iter().collect();
    Ok(laid)
}

/// Open micro tube is reckoned at the nominal pressure of emitters until it is solved.
fn open_of(job: &Job, laying: &PlantLaying, stuff: &Stuff) -> Option<(Pipe, Pressure)> {
    if laying.joined != EmitterJoin::OpenEnd {
        return None;
    }
    let pipe = job.catalogue().pipe(&stuff.micro)?.clone();
    Some((pipe, job.catalogue().class(Kind::Emitter).nominal))
}

/// The order in which a line passes points: the nearest next (Rosenkrantz and others 1977), then straightened
/// by taking crossings out (2-opt, Croes 1958).
fn route(start: Point, points: &[Point]) -> Vec<usize> {
    let mut open: Vec<usize> = (0..points.len()).collect();
    let mut order = Vec::with_capacity(points.len());
    let mut at = start;
    while !open.is_empty() {
        let near = |i: &usize| points[*i].distance(at);
        let place = (0..open.len()).min_by(|a, b| near(&open[*a]).total_cmp(&near(&open[*b]))).unwrap_or(0);
        let next = open.remove(place);
        at = points[next];
        order.push(next);
    }
    let place = |order: &[usize], i: usize| if i == 0 { start } else { points[order[i - 1]] };
    for _ in 0..ROUNDS {
        let mut better = false;
        for i in 0..order.len() {
            for j in i + 1..=order.len() {
                // The stretch from stop i+1 to j turned round; the line ends where it ends.
                let (a, b, c) = (place(&order, i), place(&order, i + 1), place(&order, j));
                let after = (j < order.len()).then(|| place(&order, j + 1));
                let now = a.distance(b) + after.map_or(0.0, |d| c.distance(d));
                let then = a.distance(c) + after.map_or(0.0, |d| b.distance(d));
                if then < now - 1e-6 {
                    order[i..j].reverse();
                    better = true;
                }
            }
        }
        if !better {
            break;
        }
    }
    order
}

/// A line in the making.
struct Line {
    laid: Laid,
    /// The joint that it has come to.
    at: usize,
    /// What open micro tube is made of and the pressure that it is reckoned at; none: it has emitters.
    open: Option<(Pipe, Pressure)>,
}

impl Line {
    /// Goes on to a place.
    fn on_to(&mut self, at: Point) -> usize {
        let next = self.laid.joint(at);
        self.laid.tube(self.at, next, Part::Line);
        self.at = next;
        next
    }

    fn emit(&mut self, joint: usize, at: Point, (flow, behind): (Flow, Pressure)) {
        let open = self.open.is_some();
        self.laid.emitters.push(LaidEmitter { joint, at, flow, open, behind });
    }

    /// Past a plant: its emitters about it, the first where the line comes near.
    fn past(&mut self, stop: &Stop, joined: EmitterJoin) {
        let first = self.laid.emitters.len();
        let about = ring(stop, self.laid.joints[self.at].at);
        let falls = |flow| (flow, Pressure::ZERO);
        match joined {
            EmitterJoin::FedRing => {
                let tap = self.on_to(about[0]);
                let behind = stop.ring.as_ref().map_or(Pressure::ZERO, |r| r.pressure);
                self.laid.micro_tubes.push(Length::from_m(LEAD));
                for at in about {
                    self.emit(tap, at, (stop.flow, behind));
                }
            }
            // The tube goes round the plant, an emitter in it at every place: round trees always, since micro
            // tube would run across their roots.
            EmitterJoin::InTube | EmitterJoin::AtTube
                if joined == EmitterJoin::InTube || stop.count >= RING =>
            {
                for at in about {
                    let joint = self.on_to(at);
                    self.emit(joint, at, falls(stop.flow));
                }
            }
            _ => {
                let tap = self.on_to(about[0]);
                for at in about {
                    let reach = Length::from_m(self.laid.joints[tap].at.distance(at).max(LEAD));
                    self.laid.micro_tubes.push(reach);
                    if matches!(joined, EmitterJoin::AtPlant | EmitterJoin::OpenEnd) {
                        let end = self.laid.joint(at);
                        self.laid.tube(tap, end, Part::Micro);
                        if let Some(tube) = self.laid.tubes.last_mut() {
                            tube.length = reach;
                        }
                        let open = self.open.as_ref();
                        let flow = open.map(|(pipe, p)| open_tube(reach, pipe.inside, pipe.c, *p));
                        self.emit(end, at, falls(flow.unwrap_or(stop.flow)));
                    } else {
                        self.emit(tap, at, falls(stop.flow));
                    }
                }
            }
        }
        self.note(stop, first);
    }

    fn note(&mut self, stop: &Stop, first: usize) {
        let emitters = first..self.laid.emitters.len();
        self.laid.plants.push(LaidPlant {
            plant: stop.plant.clone(),
            at: stop.at,
            flow: self.laid.emitters[emitters.clone()].iter().map(|e| e.flow).sum(),
            emitters,
            ring: stop.ring.clone(),
        });
    }

    /// Neighbours along the line share a manifold as far as its outlets and micro tube go; a plant that
    /// wants more than one has gets several.
    fn manifolds(&mut self, stops: &[&Stop], outlets: usize) {
        let mut i = 0;
        while i < stops.len() {
            let mut n = 1;
            let mut taken = stops[i].count;
            while i + n < stops.len()
                && taken + stops[i + n].count <= outlets
                && stops[i + n].at.distance(stops[i].at) <= MANIFOLD_REACH
            {
                taken += stops[i + n].count;
                n += 1;
            }
            let here = &stops[i..i + n];
            let sum = here.iter().fold(Point::default(), |s, p| s + p.at);
            let middle = sum * (1.0 / n as f64);
            let tap = self.on_to(middle);
            self.laid.manifolds += taken.div_ceil(outlets);
            for stop in here {
                let first = self.laid.emitters.len();
                for at in ring(stop, middle) {
                    let reach = middle.distance(at).max(LEAD);
                    self.laid.micro_tubes.push(Length::from_m(reach));
                    self.emit(tap, at, (stop.flow, Pressure::ZERO));
                }
                self.note(stop, first);
            }
            i += n;
        }
    }
}

/// Where the emitters of a plant stand: one beside it, two to its sides, more in a ring at the canopy's edge;
/// the first on the side that the line comes from.
fn ring(stop: &Stop, from: Point) -> Vec<Point> {
    let radius = match (&stop.ring, stop.count) {
        (Some(ring), _) => ring.radius().m(),
        (None, 1) => (stop.across / 4.0).min(0.15),
        (None, 2) => stop.across / 4.0,
        (None, _) => stop.across / 2.0,
    };
    let begin = if stop.at.distance(from) > 1e-6 { stop.at.direction_to(from) } else { 0.0 };
    (0..stop.count).map(|i| stop.at.toward(begin + 360.0 * i as f64 / stop.count as f64, radius)).collect()
}

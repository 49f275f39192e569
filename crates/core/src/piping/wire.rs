//! Wire from the controller to the valves: strands, lengths, gauge.

use crate::job::Job;
use crate::plan::Valve;
use crate::site::{PlaceKind, Point};
use crate::units::Length;
use std::collections::HashMap;

/// Gauges that are laid, with their resistance, ohm per foot.
pub const GAUGES: [(u8, f64); 4] = [(18, 0.0064), (16, 0.0040), (14, 0.0025), (12, 0.0016)];
/// Slack left in every box for every strand (24 in), m.
const SLACK: f64 = 0.6096;

/// Wire of one controller.
#[derive(Debug, Clone, PartialEq)]
pub struct Wire {
    /// Valves that it reaches.
    pub valves: usize,
    /// Spare strands.
    pub spares: usize,
    /// Strands for stations that come later, capped in the furthest box.
    pub later: usize,
    /// The run from the controller to the furthest valve.
    pub furthest: Length,
    /// Ground that it runs through, each stretch once.
    pub route: Length,
    /// Of the route, what runs in no pipe trench.
    pub own_trench: Length,
    /// All strands together, slack too.
    pub strands: Length,
    /// Gauge, AWG; none: even the thickest drops too much.
    pub gauge: Option<u8>,
    /// Volts lost to the furthest valve on that gauge, or on the thickest.
    pub drop_volts: f64,
    /// Valves that no main reaches, by id: how their wire runs is not known.
    pub unreached: Vec<String>,
}

/// Volts lost on a run there and back: 2 · ohm/ft · ft · A.
///
/// # Example
/// 400 ft of 18 AWG at 0.3 A: 2 · 0.0064 · 400 · 0.3 = 1.54 V.
///
/// ```
/// use fenlo_core::piping::volts_lost;
/// use fenlo_core::units::Length;
/// assert!((volts_lost(0.0064, Length::from_ft(400.0), 0.3) - 1.536).abs() < 1e-9);
/// ```
pub fn volts_lost(ohm_per_ft: f64, run: Length, amps: f64) -> f64 {
    2.0 * ohm_per_ft * run.ft() * amps
}

/// The wire of a job as its mains run. None: no controller is drawn, or no valve has its place.
///
/// `later`: stations that come later; a strand for each runs to the furthest box.
pub fn wire(job: &Job, later: usize) -> Option<Wire> {
    let controller = job.site.places(PlaceKind::Controller).next().map(|(_, p)| p.at)?;
    let net = Mains::of(job);
    let (entry, first) = net.nearest(controller)?;
    let far = net.runs_from(entry);
    let (mut furthest, mut route) = (0.0f64, 0.0);
    let (mut strands, mut valves) = (0.0, 0usize);
    let mut unreached = Vec::new();
    let mut used: Vec<bool> = vec![false; net.edges.len()];
    let mut boxes: Vec<usize> = Vec::new();
    for valve in &job.valves {
        let at = net.place_of(job, valve).and_then(|n| Some((n, far[n]?)));
        let Some((node, (run, _))) = at else {
            unreached.push(valve.id.clone());
            continue;
        };
        valves += 1;
        let run = first + run;
        furthest = furthest.max(run);
        strands += run + SLACK;
        if !boxes.contains(&node) {
            boxes.push(node);
        }
        let mut here = node;
        while let Some((_, Some(edge))) = far[here] {
            if !std::mem::replace(&mut used[edge], true) {
                route += net.edges[edge].2;
            }
            here = if net.edges[edge].0 == here { net.edges[edge].1 } else { net.edges[edge].0 };
        }
    }
    if valves == 0 {
        return None;
    }
    let rules = &job.rules.trench;
    let spares = valves.div_ceil(rules.valves_for_a_spare as usize).max(2);
    // The common runs along the whole route, spares to the furthest box.
    strands += first + route + SLACK * boxes.len() as f64 + (spares + later) as f64 * (furthest + SLACK);
    let furthest = Length::from_m(furthest);
    let may_lose = rules.controller_volts - rules.solenoid_volts;
    let lost = |ohm: f64| volts_lost(ohm, furthest, rules.solenoid_amps);
    let fits = GAUGES.iter().find(|g| lost(g.1) <= may_lose);
    Some(Wire {
        valves,
        spares,
        later,
        furthest,
        route: Length::from_m(first + route),
        own_trench: Length::from_m(first),
        strands: Length::from_m(strands),
        gauge: fits.map(|g| g.0),
        drop_volts: lost(fits.unwrap_or(&GAUGES[GAUGES.len() - 1]).1),
        unreached,
    })
}

/// The mains of a job as a graph of lengths.
struct Mains<'p> {
    names: HashMap<&'p str, usize>,
    points: Vec<Point>,
    edges: Vec<(usize, usize, f64)>,
}

/// Length from the start and the edge that leads back to it.
type Run = Option<(f64, Option<usize>)>;

impl<'p> Mains<'p> {
    fn of(job: &'p Job) -> Self {
        let mut net = Self { names: HashMap::new(), points: Vec::new(), edges: Vec::new() };
        for leg in job.piping.legs.iter().filter(|l| l.is_main()) {
            let Some(way) = job.way_of(leg) else { continue };
            let mut place = |id: &'p str, at: Point| {
                let next = net.points.len();
                let place = *net.names.entry(id).or_insert(next);
                if place == next {
                    net.points.push(at);
                }
                place
            };
            let (a, b) = (place(&leg.from, way[0]), place(&leg.to, way[way.len() - 1]));
            let long = way.windows(2).map(|w| w[0].distance(w[1])).sum();
            net.edges.push((a, b, long));
        }
        net
    }

    fn nearest(&self, at: Point) -> Option<(usize, f64)> {
        let far = self.points.iter().map(|p| p.distance(at)).enumerate();
        far.min_by(|a, b| a.1.total_cmp(&b.1))
    }

    fn place_of(&self, job: &'p Job, valve: &'p Valve) -> Option<usize> {
        let id = job.box_of(valve).unwrap_or(&valve.id);
        self.names.get(id).copied()
    }

    /// Shortest runs along the mains (Dijkstra 1959).
    fn runs_from(&self, start: usize) -> Vec<Run> {
        let mut best: Vec<Run> = vec![None; self.points.len()];
        let mut done = vec![false; self.points.len()];
        best[start] = Some((0.0, None));
        loop {
            let open = (0..best.len()).filter(|i| !done[*i]).filter_map(|i| Some((i, best[i]?.0)));
            let Some((here, run)) = open.min_by(|a, b| a.1.total_cmp(&b.1)) else {
                return best;
            };
            done[here] = true;
            for (i, &(a, b, long)) in self.edges.iter().enumerate() {
                let there = if a == here {
                    b
                } else if b == here {
                    a
                } else {
                    continue;
                };
                if best[there].is_none_or(|r| run + long < r.0) {
                    best[there] = Some((run + long, Some(i)));
                }
            }
        }
    }
}

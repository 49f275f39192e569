//! Where valve boxes stand: near the zones that they feed, along edges, where they can be reached in ten
//! years' time.
//!
//! Which boxes to open and which valves to put in each is a facility location problem; boxes are opened
//! one by one while that saves trench, then moved while that saves any.

use crate::earthwork::shared_out;
use crate::earthwork::{Ground, bad_place};
use crate::job::Job;
use crate::plan::Valve;
use crate::site::{PlaceKind, Point, offset};
use crate::units::Length;
use crate::zone::drawn_on;

/// Boxes stand so far within the edge of an area, m.
const INSIDE: f64 = 0.45;
/// Places are looked at every so many metres along edges.
const EVERY: f64 = 2.0;
/// Places looked at, at the most.
const MOST_LOOKED_AT: usize = 400;

/// A box with the valves that it is to take.
#[derive(Debug, Clone, PartialEq)]
pub struct ProposedBox {
    /// Where.
    pub at: Point,
    /// The box that stands there already; none: a new one.
    pub known: Option<String>,
    /// Ids of its valves.
    pub valves: Vec<String>,
}

/// Boxes for valves with drawn heads, of one point of connection. Boxes drawn for it are used first.
pub fn propose(job: &Job, ground: &Ground, supply: &str, valves: &[&Valve]) -> Vec<ProposedBox> {
    let heads: Vec<Vec<Point>> =
        valves.iter().map(|v| drawn_on(job, &v.id).iter().map(|h| h.2.at).collect()).collect();
    let known: Vec<(String, Point)> = job
        .site
        .places(PlaceKind::ValveBox)
        .filter(|(_, p)| p.supply.as_deref().is_none_or(|s| s == supply))
        .map(|(t, p)| (t.id.clone(), p.at))
        .collect();
    let from = job.connection_point(supply);
    let mut places: Vec<Point> = known.iter().map(|k| k.1).collect();
    places.extend(candidates(job, ground, &heads, from));
    if places.is_empty() {
        return Vec::new();
    }
    let reach = |place: usize, valve: usize| {
        let d = heads[valve].iter().map(|h| h.distance(places[place]));
        d.fold(f64::INFINITY, f64::min)
    };
    let reach: Vec<Vec<f64>> =
        (0..places.len()).map(|p| (0..valves.len()).map(|v| reach(p, v)).collect()).collect();
    let rules = &job.rules.trench;
    let metre = crate::earthwork::trench_price(job).max(0.01);
    let price = f64::try_from(rules.valve_box).unwrap_or(0.0) / metre;
    let search = Search { places: &places, reach: &reach, known: known.len(), price, from };
    let open = search.run(valves.len());
    let mut found: Vec<ProposedBox> = open
        .iter()
        .map(|p| ProposedBox {
            at: places[*p],
            known: known.get(*p).map(|k| k.0.clone()),
            valves: Vec::new(),
        })
        .collect();
    for v in 0..valves.len() {
        let nearest = (0..open.len()).min_by(|a, b| reach[open[*a]][v].total_cmp(&reach[open[*b]][v]));
        if let Some(b) = nearest {
            found[b].valves.push(valves[v].id.clone());
        }
    }
    found.retain(|b| !b.valves.is_empty());
    found.into_iter().flat_map(|b| apart(job, ground, b)).collect()
}

/// More valves and filters than a box takes stand in boxes side by side.
fn apart(job: &Job, ground: &Ground, whole: ProposedBox) -> Vec<ProposedBox> {
    let valves: Vec<&Valve> = whole.valves.iter().filter_map(|id| job.valve(id)).collect();
    let mut boxes = Vec::new();
    for (i, valves) in shared_out(&valves).into_iter().enumerate() {
        // Beside the first: a box and a spade's width on.
        let spots = (0..8).map(|k| whole.at.toward(f64::from(k) * 45.0, 0.9 * i as f64));
        let free = spots.into_iter().find(|p| bad_place(job, ground, *p).is_none());
        boxes.push(ProposedBox {
            at: if i == 0 { whole.at } else { free.unwrap_or(whole.at) },
            known: if i == 0 { whole.known.clone() } else { None },
            valves: valves.iter().map(|v| v.id.clone()).collect(),
        });
    }
    boxes
}

/// Places along the edges of areas, and near the connection, where a box can stand.
fn candidates(job: &Job, ground: &Ground, heads: &[Vec<Point>], from: Option<Point>) -> Vec<Point> {
    let mut places = Vec::new();
    for (_, area) in job.site.areas() {
        for ring in offset(&area.shape.outline, Length::from_m(-INSIDE)).unwrap_or_default() {
            let line = ring.flat(0.1);
            for i in 0..line.len() {
                let (a, b) = (line[i], line[(i + 1) % line.len()]);
                let steps = (a.distance(b) / EVERY).ceil().max(1.0) as usize;
                places.extend((0..steps).map(|k| a + (b - a) * (k as f64 / steps as f64)));
            }
        }
    }
    if let Some(at) = from {
        places.extend((0..8).map(|k| at.toward(f64::from(k) * 45.0, 1.0)));
    }
    // Without areas the heads' own surroundings have to do.
    if places.is_empty() {
        places.extend(heads.iter().flatten().map(|h| *h + Point::new(INSIDE, INSIDE)));
    }
    places.retain(|p| bad_place(job, ground, *p).is_none());
    if places.len() > MOST_LOOKED_AT {
        let skip = places.len().div_ceil(MOST_LOOKED_AT);
        places = places.into_iter().step_by(skip).collect();
    }
    places
}

struct Search<'a> {
    places: &'a [Point],
    /// Trench from a place to the nearest head of a valve, m.
    reach: &'a [Vec<f64>],
    /// The first so many stand already and cost nothing.
    known: usize,
    /// What a box costs, as metres of trench.
    price: f64,
    from: Option<Point>,
}

impl Search<'_> {
    /// Trench and boxes for a set of open places, as metres of trench: what the main needs to join them
    /// at the least, and each valve from its nearest.
    fn cost(&self, open: &[usize]) -> f64 {
        let points: Vec<Point> = self.from.into_iter().chain(open.iter().map(|p| self.places[*p])).collect();
        let boxes = open.iter().filter(|p| **p >= self.known).count() as f64 * self.price;
        let valves = self.reach.first().map_or(0, Vec::len);
        let reach = |v: usize| open.iter().map(|p| self.reach[*p][v]).fold(f64::INFINITY, f64::min);
        crate::earthwork::spanning_length(&points) + boxes + (0..valves).map(reach).sum::<f64>()
    }

    fn run(&self, valves: usize) -> Vec<usize> {
        let mut open: Vec<usize> = Vec::new();
        let mut now = f64::INFINITY;
        while open.len() < valves {
            let with = |p: usize| {
                let mut more = open.clone();
                more.push(p);
                (self.cost(&more), p)
            };
            let new = (0..self.places.len()).filter(|p| !open.contains(p)).map(with);
            let Some((cost, place)) = new.min_by(|a, b| a.0.total_cmp(&b.0)) else {
                break;
            };
            if cost >= now - 0.1 {
                break;
            }
            now = cost;
            open.push(place);
        }
        for _ in 0..10 {
            let mut moved = false;
            for i in 0..open.len() {
                let with = |p: usize| {
                    let mut other = open.clone();
                    other[i] = p;
                    (self.cost(&other), p)
                };
                let swaps = (0..self.places.len()).filter(|p| !open.contains(p)).map(with);
                if let Some((cost, place)) = swaps.min_by(|a, b| a.0.total_cmp(&b.0))
                    && cost < now - 0.1
                {
                    (now, open[i], moved) = (cost, place, true);
                }
            }
            if !moved {
                break;
            }
        }
        open
    }
}

//! Areas that come later: what is kept back for them.

use crate::catalogue::Kind;
use crate::coverage::head_to_head;
use crate::drip::{choose, estimate};
use crate::job::Job;
use crate::layout::advise;
use crate::plan::LegOf;
use crate::site::{Area, Point, nearest_on};
use crate::units::{Flow, Length, Rate, Surface};

/// What is kept back for an area that comes later.
#[derive(Debug, Clone, PartialEq)]
pub struct LaterArea {
    /// Its id.
    pub area: String,
    /// Its name.
    pub name: String,
    /// The kind of head that it will take, by its ground.
    pub kind: Kind,
    /// Its ground.
    pub ground: Surface,
    /// What that kind applies.
    pub rate: Rate,
    /// What it will take all at once.
    pub flow: Flow,
    /// Stations that this needs; one strand of wire each.
    pub stations: usize,
    /// Where a stub is left for it; none where no main is drawn.
    pub stub: Option<Stub>,
}

/// A branch of a main that is capped until an area comes.
#[derive(Debug, Clone, PartialEq)]
pub struct Stub {
    /// The point of connection of the main.
    pub supply: String,
    /// On the main.
    pub from: Point,
    /// At the edge of the area, where it is capped.
    pub to: Point,
}

impl Stub {
    /// From the main to its cap.
    pub fn length(&self) -> Length {
        Length::from_m(self.from.distance(self.to))
    }
}

impl LaterArea {
    /// What one of its stations will take.
    pub fn flow_of_one(&self) -> Flow {
        self.flow * (1.0 / self.stations.max(1) as f64)
    }
}

/// Areas marked as later that no head stands on yet, in the plan's order. `limit` is what one valve may
/// take; one station each where it is not known.
///
/// Flow = rate of the kind head to head (drip: of the emitters that its soil asks for) over the ground;
/// stations = flow / limit, rounded up.
///
/// # Example
/// 1,540 ft2 for rotators at 0.45 in/h: 7.2 gpm, one station under 10 gpm.
pub fn later_areas(job: &Job, limit: Option<Flow>) -> Vec<LaterArea> {
    let watered = |id: &str| job.groups.iter().any(|g| g.area.as_deref() == Some(id) && g.count() > 0);
    let later = job.site.areas().filter(|(o, a)| a.later && !watered(&o.id));
    later
        .filter_map(|(object, area)| {
            let kind = advise(job, &object.id)?.kind;
            let rate = rate_of(job, &object.id, kind)?;
            let ground = Surface::from_m2(area.shape.area_m2());
            let flow = Flow::from_lpm(rate.mmph() * ground.m2() / 60.0);
            let most = limit.filter(|l| *l > Flow::ZERO);
            let stations = most.map_or(1, |l| (flow / l - 1e-9).ceil().max(1.0) as usize);
            Some(LaterArea {
                area: object.id.clone(),
                name: object.title().to_owned(),
                kind,
                ground,
                rate,
                flow,
                stations,
                stub: stub(job, area),
            })
        })
        .collect()
}

/// What a kind applies on an area.
fn rate_of(job: &Job, area: &str, kind: Kind) -> Option<Rate> {
    let catalogue = job.catalogue();
    if kind.is_drip() {
        let kind = if kind == Kind::Tape { kind } else { Kind::Dripline };
        let choice = choose(catalogue, job.site.area(area)?, kind, job.units)?;
        let each = catalogue.nozzle(&choice.nozzle)?.flow;
        let flat = estimate(Surface::from_m2(1.0), choice.row_spacing, choice.emitter_spacing, each);
        return Some(flat.rate);
    }
    if let Some((least, most)) = catalogue.class(kind).rates {
        return Some((least + most) * 0.5);
    }
    let of_kind = catalogue.nozzles.iter().filter(|n| n.kind == kind && n.pattern.is_none());
    let all: Vec<_> = of_kind.map(|n| (n, 360)).collect();
    (!all.is_empty()).then(|| head_to_head(all.into_iter()))
}

/// From the nearest point of a drawn main to the edge of an area; a main that runs into the area is capped where it
/// crosses the edge.
fn stub(job: &Job, area: &Area) -> Option<Stub> {
    let edge = area.shape.outline.flat(0.1);
    let edges = || edge.iter().copied().zip(edge.iter().copied().cycle().skip(1));
    let mut best: Option<Stub> = None;
    for leg in &job.piping.legs {
        let (LegOf::Main(supply), Some(way)) = (&leg.of, job.way_of(leg)) else {
            continue;
        };
        for run in way.windows(2) {
            for (a, b) in edges() {
                let crossing = crossing(run[0], run[1], a, b).map(|p| (p, p));
                let ends = [
                    (nearest_on(a, run[0], run[1]), a),
                    (run[0], nearest_on(run[0], a, b)),
                    (run[1], nearest_on(run[1], a, b)),
                ];
                for (from, to) in crossing.into_iter().chain(ends) {
                    if best.as_ref().is_none_or(|s| from.distance(to) < s.length().m() - 1e-9) {
                        let supply = supply.clone();
                        best = Some(Stub { supply, from, to });
                    }
                }
            }
        }
    }
    best
}

/// Where two stretches cross.
fn crossing(a: Point, b: Point, c: Point, d: Point) -> Option<Point> {
    let (r, s) = (b - a, d - c);
    let across = r.cross(s);
    let (t, u) = ((c - a).cross(s) / across, (c - a).cross(r) / across);
    (across != 0.0 && (0.0..=1.0).contains(&t) && (0.0..=1.0).contains(&u)).then(|| a + r * t)
}

//! The drawn pipes of a job with what runs in them, what is dug for them, and what no layout could beat.

use super::Assessment;
use crate::earthwork::{Costs, Earthwork, Ground, costs, earthwork, pipe_price};
use crate::job::Job;
use crate::piping::{Wire, least_trench, wire};
use crate::plan::PipeLeg;
use crate::site::Point;
use crate::units::{Flow, Length, Pressure, Speed};
use crate::zone::drawn_on;

/// A drawn pipe with the most that runs in it while one valve is open.
#[derive(Debug, Clone, PartialEq)]
pub struct PipeReport {
    /// Its name on the plan.
    pub id: String,
    /// Along its bends.
    pub length: Length,
    /// Inside diameter.
    pub inside: Length,
    /// Most that runs in it, whichever way.
    pub flow: Flow,
    /// How fast.
    pub velocity: Speed,
    /// Spent in it then.
    pub drop: Pressure,
    /// The water runs against the way that it is drawn.
    pub backwards: bool,
    /// The valve that is open then.
    pub at_valve: Option<String>,
    /// The trench that it lies in for most of its way.
    pub trench: Option<String>,
}

/// Pipes, trenches and costs, with what any layout needs at the least.
#[derive(Debug, Clone, PartialEq)]
pub struct PipesReport {
    /// By leg, in the plan's order.
    pub pipes: Vec<PipeReport>,
    /// Trenches and crossings.
    pub earthwork: Earthwork,
    /// What all of it costs.
    pub costs: Costs,
    /// Trench that no layout of these heads can do without.
    pub least_trench: Length,
    /// What no layout of these heads on these valves costs less than: the least trench at plain ground,
    /// and for each valve the least lateral in the smallest pipe.
    pub least_cost: f64,
    /// Wire; none where no controller is drawn or no main.
    pub wire: Option<Wire>,
}

/// The drawn pipes of a job. None: no pipe is drawn.
pub fn pipes_report(job: &Job, assessment: &Assessment) -> Option<PipesReport> {
    if job.piping.legs.is_empty() {
        return None;
    }
    let ground = Ground::of(job);
    let earthwork = earthwork(job, &ground);
    let pipes = job.piping.legs.iter().map(|l| pipe(job, assessment, &earthwork, l)).collect();
    let heads = |valve: &str| drawn_on(job, valve).iter().map(|h| h.2.at).collect::<Vec<Point>>();
    // Two connections may share a trench, so only the longer of their least trenches is certain.
    let mut laterals = 0.0;
    let mut points: Vec<(&str, Vec<Point>)> = Vec::new();
    for supply in &job.supplies {
        points.push((&supply.id, job.connection_point(&supply.id).into_iter().collect()));
    }
    for valve in &job.valves {
        let own = heads(&valve.id);
        let cheapest = drawn_on(job, &valve.id).first().map_or(0.0, |(group, ..)| {
            let of_make = job.catalogue().pipes.iter().filter(|p| p.material == group.pipe.material);
            of_make.map(|p| pipe_price(job, p.inside)).fold(f64::INFINITY, f64::min)
        });
        laterals += least_trench(&own) * cheapest;
        if let Some(of) = points.iter_mut().find(|p| p.0 == valve.supply) {
            of.1.extend(own);
        }
    }
    let least = points.iter().map(|p| least_trench(&p.1)).fold(0.0, f64::max);
    let metre = f64::try_from(job.rules.trench.price).unwrap_or(0.0);
    Some(PipesReport {
        pipes,
        costs: costs(job, &earthwork),
        earthwork,
        least_trench: Length::from_m(least),
        least_cost: least * metre + laterals,
        wire: wire(job, assessment.later(job).iter().map(|l| l.stations).sum()),
    })
}

fn pipe(job: &Job, assessment: &Assessment, earthwork: &Earthwork, leg: &PipeLeg) -> PipeReport {
    let way = job.way_of(leg).unwrap_or_default();
    let metres: f64 = way.windows(2).map(|w| w[0].distance(w[1])).sum();
    let runs = assessment.zones.iter().filter_map(|z| {
        let zone = z.zone.as_ref().ok()?;
        Some((&z.valve, zone.legs.iter().find(|l| l.id == leg.id)?))
    });
    let most = runs.max_by(|a, b| a.1.velocity.mps().total_cmp(&b.1.velocity.mps()));
    let trenches = earthwork.trenches.iter().filter(|t| t.legs.contains(&leg.id));
    let trench = trenches.max_by(|a, b| a.length.m().total_cmp(&b.length.m()));
    let of = |f: fn(&crate::zone::LegResult) -> f64| most.map_or(0.0, |(_, l)| f(l));
    PipeReport {
        id: leg.id.clone(),
        length: Length::from_m(metres),
        inside: job.catalogue().pipe(&leg.pipe).map_or(Length::ZERO, |p| p.inside),
        flow: Flow::from_lpm(of(|l| l.flow.lpm().abs())),
        velocity: Speed::from_mps(of(|l| l.velocity.mps())),
        drop: Pressure::from_kpa(of(|l| l.drop.kpa())),
        backwards: of(|l| l.flow.lpm()) < 0.0,
        at_valve: most.map(|(valve, _)| valve.clone()),
        trench: trench.map(|t| t.id.clone()),
    }
}

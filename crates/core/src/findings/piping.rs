//! Checks of drawn pipe: where it lies, what it leaves out.

use super::{Check, Finding, Severity};
use crate::earthwork::{Contents, Cover, Ground, MOST_PLACES, bad_place, depth_of, follows, spanning_length};
use crate::job::Job;
use crate::plan::{JointKind, LegOf, PipeLeg, Valve};
use crate::site::Point;
use crate::units::Length;
use crate::zone::{Pipework, drawn_on, main_reaches};

/// A lateral that is so much longer than its heads need is told.
const TOO_LONG: f64 = 1.25;
/// Laterals shorter than this are not held against their least, m.
const WORTH_SAYING: f64 = 10.0;

/// What is to be said of the drawn pipe of a valve or a point of connection, by its id. Nothing where no
/// pipe is drawn.
pub fn piping_findings(job: &Job) -> Vec<(String, Finding)> {
    if job.piping.legs.is_empty() {
        return Vec::new();
    }
    let ground = Ground::covers(job);
    let mut found = Vec::new();
    for leg in &job.piping.legs {
        let of = match &leg.of {
            LegOf::Main(id) | LegOf::Lateral(id) => id.clone(),
        };
        found.extend(of_leg(job, &ground, leg).into_iter().map(|f| (of.clone(), f)));
    }
    for valve in &job.valves {
        found.extend(of_valve(job, &ground, valve).into_iter().map(|f| (valve.id.clone(), f)));
    }
    for supply in &job.supplies {
        found.extend(boxes(job, &ground, &supply.id).into_iter().map(|f| (supply.id.clone(), f)));
    }
    // One kind of fault is told once for a valve or a main, at its first leg.
    let mut told: Vec<(String, &'static str)> = Vec::new();
    found.retain(|(of, finding)| {
        let this = (of.clone(), finding.code());
        let new = !told.contains(&this);
        told.push(this);
        new
    });
    found
}

fn of_leg(job: &Job, ground: &Ground, leg: &PipeLeg) -> Vec<Finding> {
    let Some(way) = job.way_of(leg) else {
        return Vec::new();
    };
    let on = |cover: Cover| {
        let stretches = way.windows(2).map(|w| ground.length_on(w[0], w[1], cover));
        stretches.fold((0.0, None), |(sum, first), (m, id)| (sum + m, first.or(id)))
    };
    let mut found = Vec::new();
    let name = |id: Option<&str>| {
        let object = id.and_then(|id| job.site.object(id));
        object.map_or_else(String::new, |o| o.title().to_owned())
    };
    let leg_id = leg.id.clone();
    let (barred, what) = on(Cover::Barred);
    if barred > 0.1 {
        let check =
            Check::PipeUnder { leg: leg_id.clone(), what: name(what), length: Length::from_m(barred) };
        found.push(Finding::new(Severity::Stop, check));
    }
    let (rooted, what) = on(Cover::Roots);
    if rooted > 0.3 {
        let check =
            Check::PipeThroughRoots { leg: leg_id.clone(), what: name(what), length: Length::from_m(rooted) };
        found.push(Finding::new(Severity::Watch, check));
    }
    let (paved, what) = on(Cover::Paved);
    if paved > 0.1 && leg.sleeve.is_none() {
        let check =
            Check::UnsleevedCrossing { leg: leg_id.clone(), what: name(what), length: Length::from_m(paved) };
        found.push(Finding::new(Severity::Fix, check));
    }
    let (depth, frost) = (depth_of(job, leg), job.rules.trench.frost_depth);
    if depth < frost {
        let of_same = job.piping.legs.iter().filter(|l| l.of == leg.of);
        let mut joints = of_same.flat_map(|l| [&l.from, &l.to]).filter_map(|id| job.piping.joint(id));
        if !joints.any(|j| j.kind == JointKind::Drain) {
            let check = Check::AboveFrost { leg: leg_id, depth, frost };
            found.push(Finding::new(Severity::Fix, check));
        }
    }
    found
}

fn of_valve(job: &Job, ground: &Ground, valve: &Valve) -> Vec<Finding> {
    let mut found = Vec::new();
    let heads = drawn_on(job, &valve.id);
    if heads.is_empty() {
        return found;
    }
    let main_drawn = job.piping.main(&valve.supply).next().is_some();
    if main_drawn && !main_reaches(job, valve) {
        found.push(Finding::new(Severity::Fix, Check::OffMain {}));
    }
    if job.piping.lateral(&valve.id).next().is_none() {
        return found;
    }
    let work = Pipework::lateral(job, valve);
    let off = heads.iter().filter(|(_, _, h)| !work.joints.iter().any(|j| j.id == h.id)).count();
    if off > 0 {
        let check = Check::HeadOffLateral { heads: off, of: heads.len() };
        found.push(Finding::new(Severity::Fix, check));
        return found;
    }
    let mut points: Vec<Point> = heads.iter().map(|h| h.2.at).collect();
    points.extend(job.valve_point(valve));
    let pipe: f64 = work.legs.iter().map(|l| l.length.m()).sum();
    let needs = spanning_length(&points);
    // Where something lies between the heads, longer may be all there is.
    let clear = points.iter().all(|a| {
        let near = points.iter().filter(|b| b.distance(*a) > 1e-6);
        near.min_by(|b, c| b.distance(*a).total_cmp(&c.distance(*a)))
            .is_none_or(|b| ground.trench(*a, *b).is_some())
    });
    if clear && pipe > WORTH_SAYING && pipe > needs * TOO_LONG {
        // What lies in the trench of another pipe costs its pipe alone.
        let follows = follows(job, &valve.id);
        let counts = pipe - follows.length.m() * (1.0 - follows.share_of_cost);
        if counts > needs * TOO_LONG {
            let check = Check::LateralLong {
                pipe: Length::from_m(pipe),
                follows: follows.length,
                counts: Length::from_m(counts),
                needs: Length::from_m(needs),
            };
            found.push(Finding::new(Severity::Watch, check));
        }
    }
    found
}

fn boxes(job: &Job, ground: &Ground, supply: &str) -> Vec<Finding> {
    let mut ids: Vec<&str> =
        job.valves.iter().filter(|v| v.supply == supply).filter_map(|v| job.box_of(v)).collect();
    ids.sort_unstable();
    let mut found = Vec::new();
    for same in ids.chunk_by(|a, b| a == b) {
        let id = same[0];
        let Some(at) = job.pipe_end(id) else { continue };
        let name = job.site.object(id).map_or_else(String::new, |o| o.title().to_owned());
        if let Some(why) = bad_place(job, ground, at) {
            let check = Check::BoxMisplaced { name: name.clone(), why };
            found.push(Finding::new(Severity::Watch, check));
        }
        let there = Contents::of(job.valves.iter().filter(|v| job.box_of(v) == Some(id)));
        if there.size().is_none() {
            let check = Check::BoxFull {
                place: id.to_owned(),
                name,
                valves: there.valves,
                filters: there.filters,
                most: MOST_PLACES,
            };
            found.push(Finding::new(Severity::Watch, check));
        }
    }
    found
}

//! What mends drawn pipe: another route, a sleeve, more depth, a second box.

use super::{Action, Effect, Remedy};
use crate::earthwork::{Contents, Cover, Ground, bad_place, depth_of, is_boxed, shared_out};
use crate::findings::Check;
use crate::job::Job;
use crate::piping::{Scope, routes, sizes, two_sizes_up};
use crate::plan::{Edit, LegOf, PipeLeg, Supply, Valve};
use crate::site::{ObjectKind, Point, SiteObject};
use crate::units::Length;

/// A second box stands so far from the first, m: side by side, with room to lift both lids; else further.
const BESIDE: [f64; 2] = [0.9, 1.5];
/// A route is offered for its length if it is at least so much shorter.
const SHORTER: f64 = 0.98;

/// What mends the pipe of a valve.
pub(super) fn of_valve(job: &Job, valve: &Valve, check: &Check) -> Option<Remedy> {
    let of = LegOf::Lateral(valve.id.clone());
    match check {
        Check::PipeUnder { .. } | Check::PipeThroughRoots { .. } | Check::HeadOffLateral { .. } => {
            reroute(job, valve).map(|(remedy, ..)| remedy)
        }
        Check::LateralLong { .. } => reroute(job, valve)
            .filter(|(_, was, becomes)| *becomes < *was * SHORTER)
            .map(|(remedy, ..)| remedy),
        _ => of_legs(job, &of, check),
    }
}

/// What mends the main of a point of connection and its boxes.
pub(super) fn of_supply(job: &Job, supply: &Supply, check: &Check) -> Option<Remedy> {
    match check {
        Check::BoxFull { place, .. } => second_box(job, supply, place),
        _ => of_legs(job, &LegOf::Main(supply.id.clone()), check),
    }
}

fn of_legs(job: &Job, of: &LegOf, check: &Check) -> Option<Remedy> {
    match check {
        Check::UnsleevedCrossing { .. } => sleeves(job, of),
        Check::AboveFrost { frost, .. } => deeper(job, of, *frost),
        _ => None,
    }
}

/// The lateral laid anew and sized, with the pipe that it has and would have. None: it is kept.
fn reroute(job: &Job, valve: &Valve) -> Option<(Remedy, Length, Length)> {
    let pipe = |job: &Job| -> f64 {
        let ways = job.piping.lateral(&valve.id).filter_map(|l| job.way_of(l));
        ways.map(|way| way.windows(2).map(|w| w[0].distance(w[1])).sum::<f64>()).sum()
    };
    let scope = Scope::Valve(&valve.id);
    let route = routes(job, scope).edit?;
    let (laid, _) = job.apply(&route).ok()?;
    let sized = sizes(&laid, scope.to_size(job));
    let edit = Edit::batch(std::iter::once(route).chain(sized.edit).collect());
    let (after, _) = job.apply(&edit).ok()?;
    let (was, becomes) = (Length::from_m(pipe(job)), Length::from_m(pipe(&after)));
    let effect = Effect::Pipe { becomes, was };
    Some((Remedy::new(Action::Reroute, effect, edit), was, becomes))
}

/// A sleeve for every leg that crosses paving without.
fn sleeves(job: &Job, of: &LegOf) -> Option<Remedy> {
    let ground = Ground::covers(job);
    let paved = |leg: &PipeLeg| -> f64 {
        let way = job.way_of(leg).unwrap_or_default();
        way.windows(2).map(|w| ground.length_on(w[0], w[1], Cover::Paved).0).sum()
    };
    let bare: Vec<(&PipeLeg, f64)> = job
        .piping
        .legs
        .iter()
        .filter(|l| l.of == *of && l.sleeve.is_none())
        .map(|l| (l, paved(l)))
        .filter(|(_, m)| *m > 0.1)
        .collect();
    let length = Length::from_m(bare.iter().map(|b| b.1).sum());
    let edits = bare
        .iter()
        .map(|(leg, _)| Edit::put(PipeLeg { sleeve: Some(two_sizes_up(job, &leg.pipe)), ..(*leg).clone() }));
    let edit = Edit::batch(edits.collect());
    let effect = Effect::Sleeved { length };
    (!bare.is_empty()).then(|| Remedy::new(Action::Sleeves(bare.len()), effect, edit))
}

/// Every leg as deep as the frost goes.
fn deeper(job: &Job, of: &LegOf, frost: Length) -> Option<Remedy> {
    let own = job.piping.legs.iter().filter(|l| l.of == *of);
    let edits: Vec<Edit> = own
        .filter(|l| depth_of(job, l) < frost)
        .map(|leg| Edit::put(PipeLeg { depth: Some(frost), ..leg.clone() }))
        .collect();
    let effect = Effect::Legs(edits.len());
    (!edits.is_empty()).then(|| Remedy::new(Action::Deeper(frost), effect, Edit::batch(edits)))
}

/// A box beside a full one that takes what is too much, filters first, fed by a main from the old one.
fn second_box(job: &Job, supply: &Supply, place: &str) -> Option<Remedy> {
    let old = job.site.object(place)?;
    let ObjectKind::Place(mark) = &old.what else {
        return None;
    };
    let mut inside: Vec<&Valve> =
        job.valves.iter().filter(|v| job.box_of(v) == Some(place) && is_boxed(v)).collect();
    inside.sort_by_key(|v| v.filter.is_some());
    let boxes = shared_out(&inside);
    let [stays, goes] = &boxes[..] else {
        return None;
    };
    let at = beside(job, mark.at)?;
    let id = job.fresh_id('b');
    let mut what = mark.clone();
    what.at = at;
    let mut edits = vec![Edit::put(SiteObject {
        id: id.clone(),
        name: format!("{} B", old.title()),
        what: ObjectKind::Place(what),
    })];
    edits.extend(goes.iter().map(|v| Edit::put(Valve { valve_box: Some(id.clone()), ..(*v).clone() })));
    let feeds = |l: &&PipeLeg| l.from == place || l.to == place;
    if let Some(main) = job.piping.main(&supply.id).find(feeds) {
        let of = LegOf::Main(supply.id.clone());
        let leg = PipeLeg::straight(&job.fresh_id('p'), of, place, &id, main.pipe.clone());
        edits.push(Edit::put(leg));
    }
    let held = |some: &[&Valve]| Contents::of(some.iter().copied());
    let effect = Effect::Boxes(held(stays), held(goes));
    Some(Remedy::new(Action::SecondBox, effect, Edit::batch(edits)))
}

/// The first good place beside a box, the nearest round it.
fn beside(job: &Job, at: Point) -> Option<Point> {
    let ground = Ground::of(job);
    let around = BESIDE.iter().flat_map(|far| {
        (0..8).map(move |eighth| {
            let turn = f64::from(eighth) * std::f64::consts::FRAC_PI_4;
            at + Point::new(turn.cos(), turn.sin()) * *far
        })
    });
    let others: Vec<Point> = job
        .site
        .objects
        .iter()
        .filter_map(|o| match &o.what {
            ObjectKind::Place(mark) => Some(mark.at),
            _ => None,
        })
        .collect();
    let good = |p: &Point| {
        let apart = others.iter().all(|o| o.distance(*p) > BESIDE[0] * 0.9);
        apart && ground.free(*p) && bad_place(job, &ground, *p).is_none() && ground.trench(at, *p).is_some()
    };
    around.into_iter().find(good)
}

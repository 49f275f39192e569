use super::*;
use crate::earthwork::Ground;
use crate::earthwork::earthwork;
use crate::job::Job;
use crate::piping::lateral::{self, Need};
use crate::piping::tests::{head, mark, site};
use crate::piping::{Scope, routes};
use crate::plan::Valve;
use crate::site::PlaceKind;
use proptest::prelude::*;

/// The first heads on valve 1, the others on valve 2, both in a box a metre from the meter.
fn two_zones(first: &[(f64, f64)], second: &[(f64, f64)]) -> Job {
    let mut plan = site(vec![], first).plan().clone();
    plan.site.objects.push(mark("x1", PlaceKind::ValveBox, 1.0, 0.0));
    plan.valves.push(Valve::new("v2", "Far", "s1"));
    for valve in &mut plan.valves {
        valve.valve_box = Some("x1".into());
    }
    let spot = |(i, p): (usize, &(f64, f64))| head(&format!("k{}", i + 1), p.0, p.1, Some("v2"));
    plan.groups[0].drawn.extend(second.iter().enumerate().map(spot));
    Job::new(plan)
}

fn dug(job: &Job) -> f64 {
    let routed = routes(job, Scope::All);
    assert_eq!(routed.faults, vec![], "nothing in the way");
    let job = job.apply(&routed.edit.expect("something to lay")).expect("applies").0;
    earthwork(&job, &Ground::of(&job)).length().m()
}

#[test]
fn a_zone_further_off_follows_the_trench_of_a_nearer_one() {
    // By itself: 1 m of main; 29.3 + 10 m for the near zone, 69 m for the far one: 109.3 m. Along the near
    // zone's trench the far one digs from (40, 4) to (60, 0), 20.4 m, and 10 m between its heads.
    let job = two_zones(&[(30.0, 4.0), (40.0, 4.0)], &[(60.0, 0.0), (70.0, 0.0)]);
    let along = 1.0 + 29.0_f64.hypot(4.0) + 10.0 + 20.0_f64.hypot(4.0) + 10.0;
    let (dug, all) = (dug(&job), along);
    assert!((dug - all).abs() < 0.3, "{dug} m are dug, {all} by hand");
}

#[test]
fn one_head_by_itself_follows_too() {
    // 39 m to the near heads and 10 m back for the far one, for 49 by itself.
    let job = two_zones(&[(30.0, 0.0), (40.0, 0.0)], &[(40.0, 10.0)]);
    let dug = dug(&job);
    assert!((dug - 50.0).abs() < 0.3, "{dug}");
}

#[test]
fn a_zone_on_the_other_side_shares_nothing() {
    let job = two_zones(&[(11.0, 0.0), (16.0, 0.0)], &[(-9.0, 0.0), (-14.0, 0.0)]);
    let dug = dug(&job);
    // The far zone's pipe lies beside the main for its first metre.
    assert!((dug - 30.0).abs() < 0.3, "{dug}");
}

/// What the laterals of a job cost: each by itself, and chosen together.
fn costs(job: &Job) -> (f64, f64) {
    let ground = Ground::of(job);
    let needs: Vec<Vec<Need>> = job.valves.iter().map(|v| lateral::needs(job, v)).collect();
    let starts = job.valves.iter().map(|v| job.valve_point(v).expect("a box"));
    let starts: Vec<Point> = starts.collect();
    let roads = Roads::new(&ground, &starts);
    let mut all: Vec<Planned<'_>> = Vec::new();
    for ((valve, needs), start) in job.valves.iter().zip(&needs).zip(&starts) {
        all.push(Planned { options: lateral::options(job, &roads, valve, *start, needs), chosen: None });
    }
    let alone = |p: &Planned<'_>| {
        let cost = |l: &Laid| p.options.judge.cost(l, &Dug::default());
        p.options.laid.iter().map(cost).fold(f64::INFINITY, f64::min)
    };
    let apart: f64 = all.iter().map(alone).sum();
    choose_together(&roads, &mut all, &[]);
    let mut before: Vec<Stretch> = Vec::new();
    let mut together = 0.0;
    for p in &all {
        let laid = p.chosen.as_ref().expect("chosen");
        together += p.options.judge.cost(laid, &Dug(before.clone()));
        before.extend(p.stretches());
    }
    (apart, together)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    #[test]
    fn together_costs_no_more_than_each_by_itself(
        first in prop::collection::vec((2.0..20.0f64, -20.0..20.0f64), 1..7),
        second in prop::collection::vec((20.0..45.0f64, -20.0..20.0f64), 1..7),
    ) {
        let (apart, together) = costs(&two_zones(&first, &second));
        prop_assert!(together <= apart + 1e-3, "{together} for {apart}");
    }
}

use super::*;
use fenlo_core::plan::{Joint, JointKind, Plan, Valve};
use fenlo_core::units::UnitSystem;

/// Joints at the given places, named j0 on.
fn plan(places: &[(f64, f64)]) -> Plan {
    let mut plan = Plan::new("One trench", UnitSystem::Metric);
    for n in 1..=3 {
        let id = format!("v{n}");
        plan.valves.push(Valve::new(&id, &format!("Valve {n}"), "s1"));
    }
    for (i, (x, y)) in places.iter().enumerate() {
        plan.piping.joints.push(Joint { id: format!("j{i}"), kind: JointKind::Tee, at: Point::new(*x, *y) });
    }
    plan
}

fn leg(plan: &mut Plan, of: LegOf, from: usize, to: usize) {
    let id = format!("p{}", plan.piping.legs.len());
    let pipe = "pe100-sdr11 25mm".parse().unwrap();
    let leg = PipeLeg::straight(&id, of, &format!("j{from}"), &format!("j{to}"), pipe);
    plan.piping.legs.push(leg);
}

fn lateral(valve: &str) -> LegOf {
    LegOf::Lateral(valve.into())
}

fn drawn(plan: &Plan, leg: usize) -> Vec<(f64, f64)> {
    let job = Job::of(plan);
    let leg = &job.piping.legs[leg];
    let beside = Beside::of(&job);
    let points = beside.drawn(&leg.of, &job.way_of(leg).unwrap());
    let rounded = |x: f64| (x * 1000.0).round() / 1000.0 + 0.0;
    points.iter().map(|p| (rounded(p.x), rounded(p.y))).collect()
}

#[test]
fn pipes_of_one_trench_lie_beside_one_another_whichever_way_they_are_drawn() {
    let mut plan = plan(&[(0.0, 0.0), (10.0, 0.0), (0.0, 0.0), (10.0, 0.0)]);
    leg(&mut plan, lateral("v2"), 0, 1);
    leg(&mut plan, LegOf::Main("s1".into()), 0, 1);
    leg(&mut plan, lateral("v1"), 3, 2);
    // The main first, then valve by valve: a step further each, on the same side, to where it is joined.
    assert_eq!(drawn(&plan, 1), [(0.0, 0.0), (10.0, 0.0)]);
    let back = [(10.0, 0.0), (10.0, 0.25), (0.0, 0.25), (0.0, 0.0)];
    assert_eq!(drawn(&plan, 2), back);
    let out = [(0.0, 0.0), (0.0, 0.5), (10.0, 0.5), (10.0, 0.0)];
    assert_eq!(drawn(&plan, 0), out);
}

#[test]
fn a_breath_of_slope_does_not_change_the_side() {
    let up = [(0.0, 0.0), (10.0, 1e-6)];
    let down = [(0.0, 1e-6), (10.0, 0.0)];
    let places = [[(0.0, 0.0), (10.0, 0.0)], up, down].concat();
    let mut plan = plan(&places);
    for (n, valve) in ["v1", "v2", "v3"].into_iter().enumerate() {
        leg(&mut plan, lateral(valve), 2 * n, 2 * n + 1);
    }
    let across: Vec<f64> = (0..3).map(|n| drawn(&plan, n)[1].1).collect();
    assert_eq!(across, [0.0, 0.25, 0.5]);
}

#[test]
fn only_the_stretch_that_is_shared_steps_aside() {
    let mut plan = plan(&[(4.0, 0.0), (7.0, 0.0), (0.0, 0.0), (10.0, 0.0)]);
    leg(&mut plan, lateral("v1"), 0, 1);
    leg(&mut plan, lateral("v2"), 2, 3);
    let around = [(0.0, 0.0), (4.0, 0.0), (4.0, 0.25), (7.0, 0.25), (7.0, 0.0), (10.0, 0.0)];
    assert_eq!(drawn(&plan, 1), around);
}

#[test]
fn pipes_that_cross_or_lie_apart_stay_where_they_are() {
    let mut plan = plan(&[(0.0, 0.0), (10.0, 0.0), (5.0, -5.0), (5.0, 5.0), (0.0, 0.2), (10.0, 0.2)]);
    leg(&mut plan, lateral("v1"), 0, 1);
    leg(&mut plan, lateral("v2"), 2, 3);
    leg(&mut plan, lateral("v3"), 4, 5);
    assert_eq!(drawn(&plan, 1), [(5.0, -5.0), (5.0, 5.0)]);
    assert_eq!(drawn(&plan, 2), [(0.0, 0.2), (10.0, 0.2)]);
}

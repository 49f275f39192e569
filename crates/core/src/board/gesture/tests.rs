//! Pipe by hand.

use super::*;
use crate::board::lay_pipes;
use crate::job::Job;
use crate::plan::{DrawnHead, Edit, HeadGroup, Joint, PipeLeg, Plan, Valve};
use crate::site::{ObjectKind, PlaceKind, PlaceMark, SiteObject};
use crate::units::UnitSystem;

fn at(x: f64, y: f64) -> Point {
    Point::new(x, y)
}
/// A meter at the origin, a box 10 m to the right, three heads in a row above it on valve 1.
fn yard() -> Plan {
    let mut plan = Plan::new("Yard", UnitSystem::Us);
    let mark = |id: &str, kind, x: f64| SiteObject {
        id: id.into(),
        name: String::new(),
        what: ObjectKind::Place(PlaceMark { kind, at: at(x, 0.0), supply: None }),
    };
    plan.site.objects = vec![mark("m1", PlaceKind::Meter, 0.0), mark("b1", PlaceKind::ValveBox, 10.0)];
    let head = |i: u8| DrawnHead {
        id: format!("h{i}"),
        at: at(10.0 + 4.0 * f64::from(i), 5.0),
        arc: 180,
        facing: 90.0,
        radius: None,
        valve: Some("v1".into()),
        locked: false,
    };
    plan.groups
        .push(HeadGroup { drawn: (1..=3).map(head).collect(), ..HeadGroup::new("g1", "Lawn", "spray-12") });
    plan.valves.push(Valve { valve_box: Some("b1".into()), ..Valve::new("v1", "Lawn", "s1") });
    plan
}
fn doing(plan: &Plan, gesture: &Gesture) -> Result<(Plan, Edit), String> {
    let job = Job::new(plan.clone());
    let edit = gesture.edit(&job).map_err(|e| e.to_string())?;
    let (after, back) = job.apply(&edit).map_err(|e| e.to_string())?;
    let undone = after.apply(&back).map_err(|e| e.to_string())?.0;
    assert_eq!(undone.plan(), plan, "undo takes all of it back");
    Ok((after.plan().clone(), back))
}
fn done(plan: &Plan, gesture: &Gesture) -> Plan {
    doing(plan, gesture).unwrap_or_else(|e| panic!("{gesture:?}: {e}")).0
}
fn pipe(of: LegOf, way: &[(f64, f64)], n: u8) -> Gesture {
    Gesture::LayPipe {
        of,
        way: way.iter().map(|p| at(p.0, p.1)).collect(),
        new: ["p", "j", "q", "k", "r"].map(|letter| format!("{letter}{n}")).into(),
    }
}
fn lateral() -> LegOf {
    LegOf::Lateral("v1".into())
}
fn main() -> LegOf {
    LegOf::Main("s1".into())
}
fn leg<'p>(plan: &'p Plan, id: &str) -> &'p PipeLeg {
    plan.piping.leg(id).unwrap_or_else(|| panic!("no {id}"))
}

#[test]
fn the_ends_of_a_pipe_join_what_they_come_near() {
    let plan = done(&yard(), &pipe(main(), &[(0.1, 0.0), (5.0, 1.0), (9.8, 0.1)], 1));
    let laid = leg(&plan, "p1");
    assert_eq!((laid.from.as_str(), laid.to.as_str(), laid.bends.len()), ("s1", "b1", 1));
    // From the box it is a lateral's valve, not the box, and a head at the far end.
    let plan = done(&plan, &pipe(lateral(), &[(10.0, 0.0), (14.0, 5.1)], 2));
    let laid = leg(&plan, "p2");
    assert_eq!((laid.from.as_str(), laid.to.as_str()), ("v1", "h1"));
    // In the open it ends at a joint of its own.
    let plan = done(&plan, &pipe(lateral(), &[(14.0, 5.0), (14.0, 9.0)], 3));
    assert_eq!(leg(&plan, "p3").to, "j3");
    assert_eq!(plan.piping.joint("j3").map(|j| j.at), Some(at(14.0, 9.0)));
}

#[test]
fn a_pipe_that_comes_to_another_gets_a_tee_there() {
    let plan = done(&yard(), &pipe(lateral(), &[(14.0, 5.0), (22.0, 5.0)], 1));
    assert_eq!((leg(&plan, "p1").from.as_str(), leg(&plan, "p1").to.as_str()), ("h1", "h3"));
    let plan = done(&plan, &pipe(lateral(), &[(10.0, 0.0), (16.0, 5.1)], 2));
    // The first pipe is parted at the foot of the new one's end.
    let tee = plan.piping.joints.iter().find(|j| j.at.distance(at(16.0, 5.0)) < 1e-9).expect("a tee");
    assert_eq!(leg(&plan, "p2").to, tee.id);
    assert_eq!(leg(&plan, "p1").to, tee.id);
    let rest = plan.piping.legs.iter().find(|l| l.from == tee.id).expect("the rest of it");
    assert_eq!(rest.to, "h3");
}

#[test]
fn a_bend_is_put_in_moved_and_taken_out_and_fixed_ends_stay() {
    let plan = done(&yard(), &pipe(lateral(), &[(10.0, 0.0), (14.0, 5.0)], 1));
    let insert = Gesture::InsertCorner { id: "p1".into(), ring: 0, edge: 0, at: at(10.0, 5.0) };
    let bent = done(&plan, &insert);
    assert_eq!(leg(&bent, "p1").bends, vec![at(10.0, 5.0)]);
    assert!(leg(&bent, "p1").kept, "what a hand has bent is not routed anew");
    let corner = |index, x, y| Gesture::Corner { id: "p1".into(), ring: 0, index, to: at(x, y) };
    assert_eq!(leg(&done(&bent, &corner(1, 9.0, 4.0)), "p1").bends, vec![at(9.0, 4.0)]);
    let refused = doing(&bent, &corner(2, 30.0, 30.0)).unwrap_err();
    assert!(refused.contains("Move the object and the pipe follows"), "{refused}");
    let out = Gesture::RemoveCorner { id: "p1".into(), ring: 0, index: 1 };
    assert!(leg(&done(&bent, &out), "p1").bends.is_empty());
}

#[test]
fn a_tee_is_dragged_and_taken_out_and_its_pipes_become_one() {
    let mut plan = yard();
    plan.piping.joints.push(Joint { id: "j1".into(), kind: Default::default(), at: at(12.0, 2.0) });
    let make = |id: &str, from: &str, to: &str| {
        PipeLeg::straight(id, lateral(), from, to, "class-200 1in".parse().unwrap())
    };
    plan.piping.legs = vec![make("p1", "v1", "j1"), make("p2", "j1", "h1")];
    let moved =
        done(&plan, &Gesture::Move { ids: vec!["j1".into()], motion: Motion::Shift { by: at(1.0, 1.0) } });
    assert_eq!(moved.way_of(leg(&moved, "p2")).unwrap()[0], at(13.0, 3.0));
    let out = |ids: &[&str]| Gesture::Remove { ids: ids.iter().map(|s| (*s).to_owned()).collect() };
    let joined = done(&plan, &out(&["j1"]));
    assert_eq!(joined.piping.legs.len(), 1);
    assert_eq!((leg(&joined, "p1").from.as_str(), leg(&joined, "p1").to.as_str()), ("v1", "h1"));
    // A pipe and its joint taken up together: the joint has gone with the pipe.
    let gone = done(&plan, &out(&["p2", "p1", "j1"]));
    assert!(gone.piping.is_blank());
    assert!(doing(&plan, &out(&["p9"])).is_err());
}

#[test]
fn heads_and_pipe_of_a_metric_job_begin_in_metric_pipe() {
    for (units, make) in [(UnitSystem::Us, "class-200"), (UnitSystem::MetricBar, "pe100-sdr11")] {
        let mut plan = yard();
        plan.units = units;
        plan.groups.clear();
        let head = Gesture::SetHead {
            id: "h9".into(),
            at: at(3.0, 3.0),
            nozzle: "spray-12".into(),
            group: "g9".into(),
            valve: Some("v1".into()),
        };
        let plan = done(&plan, &head);
        assert_eq!(plan.groups[0].pipe.material, make);
        let plan = done(&plan, &pipe(lateral(), &[(10.0, 0.0), (3.0, 3.0)], 1));
        assert_eq!(leg(&plan, "p1").pipe.material, make);
    }
}

#[test]
fn pipe_from_a_drawing_is_joined_and_what_is_nobodys_is_told() {
    let plan = yard();
    let pipes = [
        (main(), vec![at(0.0, 0.0), at(10.0, 0.0)]),
        (lateral(), vec![at(10.0, 0.0), at(14.0, 5.0)]),
        (LegOf::Lateral("v9".into()), vec![at(0.0, 0.0), at(1.0, 1.0)]),
    ];
    let mut n = 0;
    let (edits, told) = lay_pipes(&plan, &pipes, |letter| {
        n += 1;
        format!("{letter}-{n}")
    });
    let job = Job::new(plan).apply(&Edit::batch(edits)).unwrap().0;
    assert_eq!(job.piping.legs.len(), 2);
    assert_eq!(job.piping.legs[1].to, "h1");
    assert!(told.len() == 1 && told[0].contains("v9"), "{told:?}");
}

#[test]
fn a_pipe_without_length_or_with_both_ends_at_one_place_is_refused() {
    assert!(doing(&yard(), &pipe(main(), &[(0.0, 0.0)], 1)).is_err());
    let back = doing(&yard(), &pipe(main(), &[(0.0, 0.0), (5.0, 5.0), (0.1, 0.1)], 1)).unwrap_err();
    assert!(back.contains("same point"), "{back}");
    let nan =
        Gesture::LayPipe { of: main(), way: vec![at(f64::NAN, 0.0), at(1.0, 1.0)], new: vec!["p1".into()] };
    assert!(doing(&yard(), &nan).is_err());
}

//! Drawn pipe: bad that must speak, good that must be silent.

use super::super::piping_findings;
use crate::job::Job;
use crate::piping::{Scope, routes, sizes};
use crate::plan::{
    DrawnHead, HeadGroup, Joint, JointKind, LegOf, PipeLeg, Plan, Reading, ReadingKind, Valve,
};
use crate::site::tests::{lawn, rect};
use crate::site::{
    DryKind, Form, KeepDry, ObjectKind, PlaceKind, PlaceMark, Planting, Point, Shape, SiteObject,
};
use crate::units::{Length, Pressure, UnitSystem};

pub(crate) fn object(id: &str, what: ObjectKind) -> SiteObject {
    SiteObject { id: id.into(), name: id.into(), what }
}
pub(crate) fn dry(id: &str, kind: DryKind, shape: Shape) -> SiteObject {
    let form = Form::Region(shape);
    let what = ObjectKind::Dry(KeepDry { kind, height: None, form });
    object(id, what)
}
pub(crate) fn mark(id: &str, kind: PlaceKind, x: f64, y: f64) -> SiteObject {
    let what = ObjectKind::Place(PlaceMark { kind, at: Point::new(x, y), supply: None });
    object(id, what)
}
/// A lawn of 20 by 10 m with six sprays on one valve, the meter in the corner.
pub(crate) fn site(more: Vec<SiteObject>) -> Plan {
    let mut plan = Plan::new("Lawn", UnitSystem::Us);
    plan.supplies[0].readings.push(Reading {
        kind: ReadingKind::Static { pressure: Pressure::from_psi(60.0) },
        when: String::new(),
        instrument: String::new(),
        tap: String::new(),
    });
    plan.site.objects = vec![
        lawn("a1", rect(0.0, 0.0, 20.0, 10.0)),
        mark("m1", PlaceKind::Meter, -2.0, 0.0),
        mark("x1", PlaceKind::ValveBox, 0.5, 0.5),
    ];
    plan.site.objects.extend(more);
    let head = |i: u8| DrawnHead {
        id: format!("h{i}"),
        at: Point::new(4.0 + 4.0 * f64::from(i % 3), 3.0 + 4.0 * f64::from(i / 3)),
        arc: 360,
        facing: 0.0,
        radius: None,
        valve: Some("v1".into()),
        locked: false,
    };
    plan.groups.push(HeadGroup {
        area: Some("a1".into()),
        drawn: (0..6).map(head).collect(),
        ..HeadGroup::new("g1", "Lawn", "spray-12")
    });
    plan.valves.push(Valve { valve_box: Some("x1".into()), ..Valve::new("v1", "Lawn", "s1") });
    plan
}
pub(crate) fn piped(plan: &Plan) -> Plan {
    let job = Job::new(plan.clone());
    let job = job.apply(&routes(&job, Scope::All).edit.expect("routes")).expect("applies").0;
    let sized = sizes(&job, None).edit;
    sized.map_or(job.clone(), |e| job.apply(&e).expect("applies").0).plan().clone()
}
pub(crate) fn codes(plan: &Plan) -> Vec<&'static str> {
    piping_findings(&Job::new(plan.clone())).iter().map(|(_, f)| f.code()).collect()
}
pub(crate) fn leg(id: &str, of: LegOf, from: &str, to: &str) -> PipeLeg {
    PipeLeg::straight(id, of, from, to, "class-200 1in".parse().expect("a pipe"))
}

#[test]
fn good_pipe_is_silent() {
    assert_eq!(codes(&site(vec![])), Vec::<&str>::new(), "nothing drawn, nothing said");
    assert_eq!(codes(&piped(&site(vec![]))), Vec::<&str>::new());
    // Round a house and through a drive in a sleeve.
    let house = dry("House", DryKind::Building, rect(7.0, -6.0, 5.0, 5.0));
    let drive = dry("Drive", DryKind::Paving, rect(-1.5, -20.0, 1.2, 60.0));
    assert_eq!(codes(&piped(&site(vec![house, drive]))), Vec::<&str>::new());
}

#[test]
fn pipe_where_it_may_not_lie_is_told() {
    let mut plan = piped(&site(vec![]));
    plan.site.objects.push(dry("House", DryKind::Building, rect(6.0, 2.0, 1.0, 7.0)));
    assert!(codes(&plan).contains(&"pipe-under"));
    let mut plan = piped(&site(vec![]));
    plan.site.objects.push(dry("Gas", DryKind::NoDig, rect(6.0, 2.0, 0.5, 7.0)));
    assert!(codes(&plan).contains(&"pipe-under"));
    let mut plan = piped(&site(vec![]));
    plan.site.objects.push(dry("Path", DryKind::Path, rect(6.0, -1.0, 1.0, 12.0)));
    assert!(codes(&plan).contains(&"unsleeved-crossing"));
    for leg in &mut plan.piping.legs {
        leg.sleeve = Some("class-200 1-1/2in".parse().expect("a pipe"));
    }
    assert!(!codes(&plan).contains(&"unsleeved-crossing"));
    let mut plan = piped(&site(vec![]));
    let oak = Planting { canopy: Length::from_m(8.0), at: Point::new(8.0, 5.0), to: None, count: 1 };
    plan.site.objects.push(object("Oak", ObjectKind::Plant(oak)));
    assert!(codes(&plan).contains(&"pipe-through-roots"));
}

#[test]
fn heads_and_valves_that_the_pipe_leaves_out_are_told() {
    let mut plan = piped(&site(vec![]));
    let out = plan.piping.legs.iter().rposition(|l| l.to.starts_with('h')).expect("a last leg");
    plan.piping.legs.remove(out);
    assert!(codes(&plan).contains(&"head-off-lateral"));
    let mut plan = piped(&site(vec![]));
    plan.site.objects.push(mark("x2", PlaceKind::ValveBox, 19.0, 9.0));
    plan.valves[0].valve_box = Some("x2".into());
    assert!(codes(&plan).contains(&"off-main"));
}

#[test]
fn a_lateral_that_wanders_is_told_from_a_quarter_more() {
    // Heads 4 m apart: 1.25 of the shortest connection is the line.
    let mut plan = site(vec![]);
    let lateral = || LegOf::Lateral("v1".into());
    let order = ["v1", "h0", "h5", "h1", "h4", "h2", "h3"];
    plan.piping.legs = (0..6).map(|i| leg(&format!("p{i}"), lateral(), order[i], order[i + 1])).collect();
    assert!(codes(&plan).contains(&"lateral-long"));
    let order = ["v1", "h0", "h1", "h2", "h5", "h4", "h3"];
    plan.piping.legs = (0..6).map(|i| leg(&format!("p{i}"), lateral(), order[i], order[i + 1])).collect();
    assert!(!codes(&plan).contains(&"lateral-long"));
}

#[test]
fn a_lateral_in_the_trench_of_another_pipe_is_not_told() {
    // It wanders as above; a main that goes the same way to another box has the trench dug anyway.
    let mut plan = site(vec![mark("x2", PlaceKind::ValveBox, 18.0, 3.0)]);
    let order = ["v1", "h0", "h5", "h1", "h4", "h2", "h3"];
    plan.piping.legs =
        (0..6).map(|i| leg(&format!("p{i}"), LegOf::Lateral("v1".into()), order[i], order[i + 1])).collect();
    let alone = Job::new(plan.clone());
    let end = |l: &PipeLeg| alone.way_of(l).expect("a way")[1];
    let mut main = leg("pm", LegOf::Main("s1".into()), "s1", "x2");
    main.bends = std::iter::once(Point::new(0.5, 0.5)).chain(plan.piping.legs.iter().map(end)).collect();
    plan.piping.legs.push(main);
    assert!(!codes(&plan).contains(&"lateral-long"));
}

#[test]
fn frost_wants_depth_or_a_drain() {
    let mut plan = piped(&site(vec![]));
    plan.rules.trench.frost_depth = Length::from_in(16.0);
    // Mains lie at 18 in, laterals at 12.
    let told = piping_findings(&Job::new(plan.clone()));
    let shallow: Vec<&String> =
        told.iter().filter(|(_, f)| f.code() == "above-frost").map(|(of, _)| of).collect();
    assert_eq!(shallow, ["v1"]);
    let low = Joint { id: "d1".into(), kind: JointKind::Drain, at: Point::new(3.0, 1.0) };
    plan.piping.joints.push(low);
    plan.piping.legs.push(leg("pd", LegOf::Lateral("v1".into()), "h0", "d1"));
    assert_eq!(codes(&plan), Vec::<&str>::new());
}

#[test]
fn a_box_under_a_tree_and_one_too_full_are_told() {
    let mut plan = piped(&site(vec![]));
    let oak = Planting { canopy: Length::from_m(6.0), at: Point::new(0.0, 3.0), to: None, count: 1 };
    plan.site.objects.push(object("Oak", ObjectKind::Plant(oak)));
    assert!(codes(&plan).contains(&"box-misplaced"));
    let mut plan = piped(&site(vec![]));
    for i in 2..8 {
        plan.valves
            .push(Valve { valve_box: Some("x1".into()), ..Valve::new(&format!("v{i}"), "More", "s1") });
    }
    assert!(codes(&plan).contains(&"box-full"));
}

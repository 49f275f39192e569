use super::*;
use crate::job::Job;
use crate::job::tests::apply;
use crate::units::{Flow, Length, Pressure, UnitSystem};

pub(crate) fn group(id: &str, nozzle: &str, listed: &[(u16, u32)]) -> HeadGroup {
    let listed = listed.iter().map(|&(arc, count)| ArcCount { arc, count, valve: None }).collect();
    HeadGroup { listed, ..HeadGroup::new(id, &format!("Area {id}"), nozzle) }
}
pub(crate) fn valve(id: &str) -> Valve {
    Valve::new(id, &format!("Valve {id}"), "s1")
}

fn faults(change: impl FnOnce(&mut Plan)) -> String {
    let mut plan = Plan::new("Test", UnitSystem::Us);
    plan.groups.push(group("g1", "spray-12", &[(180, 4)]));
    plan.valves.push(valve("v1"));
    assert!(Job::of(&plan).faults().is_empty());
    change(&mut plan);
    Job::of(&plan).faults().iter().map(ToString::to_string).collect::<Vec<_>>().join("\n")
}

#[test]
fn faults_name_the_path_and_what_is_expected() {
    assert_eq!(
        faults(|p| p.groups[0].spacing = Length::from_ft(-3.0)),
        "groups[0].spacing: must be more than zero"
    );
    assert_eq!(
        faults(|p| p.groups[0].listed[0].arc = 400),
        "groups[0].lots[0].arc: Spray 12 ft cannot be set to 400°: 45° to 360°"
    );
    assert!(
        faults(|p| p.groups[0].nozzle = "spray-99".into())
            .starts_with("groups[0].nozzle: nozzle ‘spray-99’ is not in the catalog")
    );
    assert!(
        faults(|p| p.groups[0].pipe = "class-200 9in".parse().unwrap()).contains("class-200 sizes: 3/4in")
    );
    assert!(faults(|p| p.valves[0].model = "filter-1in".into()).starts_with("valves[0].model"));
    assert_eq!(faults(|p| p.valves[0].id = "g1".into()), "valves[0].id: ‘g1’ is used twice");
    assert!(
        faults(|p| p.valves[0].regulation = Regulation::Inline { set: Pressure::from_psi(33.0) })
            .contains("come in 10, 15, 20, 25, 30, 40, 50 psi and 0.7, 1.0, 1.4")
    );
    assert!(
        faults(|p| p.supplies[0].readings.push(Reading {
            kind: ReadingKind::Static { pressure: Pressure::ZERO },
            when: String::new(),
            instrument: String::new(),
            tap: String::new()
        }))
        .contains("readings[0].measured.pressure: must be more than zero")
    );
    assert!(faults(|p| p.groups[0].listed[0].count = u32::MAX).contains("must be from 1 to 5000"));
}

#[test]
fn heads_that_stay_keep_their_valve_when_counts_change() {
    let mut g = group("g1", "spray-12", &[(90, 4), (180, 6)]);
    g.reassign(|i, _| Some(if i < 5 { "v1".into() } else { "v2".into() }));
    let lots = g.with_counts(&[(90, 4), (180, 7)]);
    assert_eq!(
        lots.iter().map(|l| (l.arc, l.count, l.valve.as_deref())).collect::<Vec<_>>(),
        [(90, 4, Some("v1")), (180, 1, Some("v1")), (180, 5, Some("v2")), (180, 1, None)]
    );
}

#[test]
fn removing_a_valve_frees_its_heads_and_undo_puts_them_back() {
    let mut plan = Plan::new("Test", UnitSystem::Us);
    plan.valves.push(valve("v1"));
    plan.groups.push(group("g1", "spray-12", &[(180, 4)]));
    let heads = plan.groups[0].heads_on(None);
    let (plan, _) = apply(&plan, &Edit::assign(heads, Some("v1".into()))).unwrap();
    let (gone, back) = apply(&plan, &Edit::remove::<Valve>("v1")).unwrap();
    assert_eq!(gone.unassigned().len(), 4);
    assert_eq!(apply(&gone, &back).unwrap().0, plan);
    let error = apply(&plan, &Edit::remove::<Supply>("s1")).unwrap_err();
    assert_eq!(error, EditError::StillUsed { id: "s1".into() });
}

fn drawn_plan() -> Plan {
    use crate::site::Point;
    let mut plan = Plan::new("Drawn", UnitSystem::Us);
    plan.valves.extend([valve("v1"), valve("v2")]);
    let head = |i: u32| DrawnHead {
        id: format!("h{i}"),
        at: Point::new(f64::from(i), 0.0),
        arc: 90,
        facing: 0.0,
        radius: None,
        valve: (i < 3).then(|| "v1".into()),
        locked: false,
    };
    plan.groups
        .push(HeadGroup { drawn: (0..5).map(head).collect(), ..HeadGroup::new("g1", "Lawn", "spray-12") });
    plan
}

#[test]
fn drawn_heads_go_from_valve_to_valve_as_listed_ones_do() {
    let plan = drawn_plan();
    assert_eq!(Job::of(&plan).faults(), []);
    assert_eq!((plan.groups[0].count(), plan.unassigned().len()), (5, 2));
    assert!(plan.groups[0].is_on("v1") && !plan.groups[0].is_on("v2"));
    let (moved, back) = apply(&plan, &Edit::assign(plan.unassigned(), Some("v2".into()))).unwrap();
    assert_eq!(moved.groups[0].heads_on(Some("v2")).iter().map(|h| h.index).collect::<Vec<_>>(), [3, 4]);
    assert_eq!(moved.drawn_head("h4").unwrap().1.valve.as_deref(), Some("v2"));
    assert_eq!(apply(&moved, &back).unwrap().0, plan);
    let (freed, back) = apply(&moved, &Edit::remove::<Valve>("v1")).unwrap();
    assert_eq!(freed.unassigned().len(), 3);
    assert_eq!(apply(&freed, &back).unwrap().0, moved);
}

#[test]
fn faults_of_the_ground_name_their_place() {
    use crate::site::tests::{lawn, rect};
    use crate::site::{Note, ObjectKind, Point, SiteObject};
    let said = |change: &dyn Fn(&mut Plan)| {
        let mut plan = drawn_plan();
        plan.site.objects.push(lawn("a1", rect(0.0, 0.0, 5.0, 5.0)));
        change(&mut plan);
        Job::of(&plan).faults().iter().map(ToString::to_string).collect::<Vec<_>>().join("\n")
    };
    assert_eq!(said(&|_| ()), "");
    assert_eq!(said(&|p| p.groups[0].drawn[1].id = "a1".into()), "site.things[0].id: ‘a1’ is used twice");
    assert_eq!(
        said(&|p| p.groups[0].drawn[2].arc = 30),
        "groups[0].drawn[2].arc: Spray 12 ft cannot be set to 30°: 45° to 360°"
    );
    assert_eq!(
        said(&|p| p.groups[0].drawn[0].facing = -1.0),
        "groups[0].drawn[0].facing: enter 0 to 360 degrees"
    );
    assert_eq!(
        said(&|p| p.groups[0].drawn[0].radius = Some(Length::from_ft(20.0))),
        "groups[0].drawn[0].radius: radius adjusts from 12 ft down to 9 ft"
    );
    assert_eq!(
        said(&|p| p.groups[0].drawn[0].valve = Some("v9".into())),
        "groups[0].drawn[0].valve: valve ‘v9’ does not exist"
    );
    assert_eq!(
        said(&|p| p.groups[0].nozzle = "dripline-0.6".into()).lines().next().unwrap(),
        "groups[0].nozzle: heads on the plan need a spray or rotor nozzle"
    );
    assert!(
        said(&|p| p.groups[0].listed.push(ArcCount { arc: 90, count: 1, valve: None }))
            .contains("listed or drawn heads, not both")
    );
    assert_eq!(said(&|p| p.site.north = 400.0), "site.north: enter 0 to 360 degrees");
    let note = |at: Point, text: &str| SiteObject {
        id: "n1".into(),
        name: String::new(),
        what: ObjectKind::Note(Note { at, text: text.into() }),
    };
    assert_eq!(
        said(&|p| p.site.objects.push(note(Point::new(0.0, f64::NAN), "x"))),
        "site.things[1].what.at: is outside the drawing area"
    );
    assert_eq!(
        said(&|p| p.site.objects.push(note(Point::default(), " "))),
        "site.things[1].what.text: must be 1 to 500 characters"
    );
    assert!(
        said(&|p| p.site.objects.extend((0..3001).map(|i| lawn(&format!("b{i}"), rect(0.0, 0.0, 1.0, 1.0)))))
            .starts_with("site.things: has 3002 entries; at most 3000")
    );
    // What refers to a thing that is gone refers to nothing: it is no fault.
    assert_eq!(
        said(&|p| (p.groups[0].area, p.valves[0].valve_box) = (Some("gone".into()), Some("gone".into()))),
        ""
    );
}

#[test]
fn a_valve_stands_in_its_own_box_else_where_its_water_is() {
    use crate::site::{ObjectKind, PlaceKind, PlaceMark, Point, SiteObject};
    let mut plan = drawn_plan();
    let place = |id: &str, kind, x: f64, supply: Option<&str>| SiteObject {
        id: id.into(),
        name: String::new(),
        what: ObjectKind::Place(PlaceMark {
            kind,
            at: Point::new(x, 0.0),
            supply: supply.map(str::to_owned),
        }),
    };
    let at = |plan: &Plan| plan.valve_point(&plan.valves[0]).map(|p| p.x);
    assert_eq!(at(&plan), None);
    plan.site.objects.push(place("m", PlaceKind::Meter, 1.0, None));
    assert_eq!(at(&plan), Some(1.0), "at the meter where no box is drawn");
    plan.site.objects.push(place("b1", PlaceKind::ValveBox, 2.0, Some("s9")));
    assert_eq!(at(&plan), Some(2.0), "any box");
    plan.site.objects.push(place("b2", PlaceKind::ValveBox, 3.0, Some("s1")));
    assert_eq!(at(&plan), Some(3.0), "that of its connection");
    plan.valves[0].valve_box = Some("b1".into());
    assert_eq!(at(&plan), Some(2.0), "its own");
    plan.valves[0].valve_box = Some("m".into());
    assert_eq!(at(&plan), Some(3.0), "a meter is no box");
}

#[test]
fn nozzles_of_the_house_are_part_of_the_job() {
    use crate::catalogue::{ChartRow, Kind, OwnNozzle};
    let row = |psi: f64, gpm: f64| ChartRow {
        pressure: Pressure::from_psi(psi),
        arc: 360,
        radius: Length::from_ft(12.0),
        flow: Flow::from_gpm(gpm),
    };
    let ours = OwnNozzle {
        id: "own-12".into(),
        label: "Field 12".into(),
        kind: Kind::Spray,
        chart: vec![row(20.0, 1.96), row(30.0, 2.4)],
        price: None,
    };
    let plan = Plan::new("t", UnitSystem::Us);
    let (with, back) = apply(&plan, &Edit::put(ours.clone())).unwrap();
    // ln(2.4 / 1.96) / ln(30 / 20) = 0.4995: an orifice.
    let nozzle = Job::of(&with).catalogue().nozzle("own-12").unwrap().clone();
    assert!((nozzle.exponent.unwrap() - 0.4995).abs() < 1e-3 && (nozzle.flow.gpm() - 2.4).abs() < 1e-9);
    assert!(Job::of(&plan).catalogue().nozzle("own-12").is_none());
    let group = HeadGroup {
        listed: vec![ArcCount { arc: 360, count: 3, valve: None }],
        ..HeadGroup::new("g1", "Lawn", "own-12")
    };
    let (used, _) = apply(&with, &Edit::put(group.clone())).unwrap();
    // The tables follow the rows: undone, they are the built-in ones again.
    assert_eq!(apply(&with, &back).unwrap().0, plan);
    assert!(
        matches!(apply(&used, &Edit::remove::<OwnNozzle>("own-12")), Err(EditError::Faults(_))),
        "in use"
    );
    assert!(matches!(apply(&plan, &Edit::put(group)), Err(EditError::Faults(_))), "not in this job");
    // On the truck is a mark, of built-in ones too.
    let (truck, _) =
        apply(&used, &Edit::SetFavourites(SetFavourites { ids: vec!["own-12".into(), "spray-15".into()] }))
            .unwrap();
    assert_eq!(Job::of(&truck).catalogue().nozzles.iter().filter(|n| n.favourite).count(), 2);
    // Read back from its file it computes the same.
    let read: Plan = serde_json::from_str(&serde_json::to_string(&truck).unwrap()).unwrap();
    let own = |plan: &Plan| Job::of(plan).catalogue().nozzle("own-12").cloned();
    assert_eq!((&read, own(&read)), (&truck, own(&truck)));
    // What no nozzle does is refused: less flow under more pressure, a built-in name, drip.
    for (wrong, told) in [
        (OwnNozzle { chart: vec![row(20.0, 2.4), row(40.0, 1.2)], ..ours.clone() }, "to the power -1.00"),
        (OwnNozzle { id: "spray-12".into(), ..ours.clone() }, "is already in use or reserved"),
        (OwnNozzle { kind: Kind::Dripline, ..ours.clone() }, "only spray and rotor heads"),
        (OwnNozzle { chart: vec![], ..ours.clone() }, "1 to 200 rows"),
        (OwnNozzle { chart: vec![row(-1.0, 2.0)], ..ours }, "more than zero"),
    ] {
        let Err(EditError::Faults(faults)) = apply(&plan, &Edit::put(wrong)) else { panic!("{told}") };
        assert!(faults.iter().any(|f| f.message.contains(told)), "{faults:?}");
    }
}

#[test]
fn a_name_that_pipe_still_leads_to_is_not_given_again() {
    let mut plan = Plan::new("Test", UnitSystem::Us);
    assert_eq!(plan.fresh_id('h'), "h1");
    plan.piping.legs.push(PipeLeg {
        id: "p1".into(),
        of: LegOf::Lateral("v1".into()),
        from: "j1".into(),
        to: "h1".into(),
        bends: Vec::new(),
        pipe: "class-200 3/4in".parse().unwrap(),
        size_pinned: false,
        kept: false,
        depth: None,
        sleeve: None,
    });
    // Its head was taken away: another one is not to hang on it.
    assert_eq!((plan.fresh_id('h'), plan.fresh_id('p')), ("h2".into(), "p2".into()));
}

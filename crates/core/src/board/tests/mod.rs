use super::*;
use crate::job::Job;
use crate::job::tests::apply;
use crate::plan::{DrawnHead, Edit, EditError, LegOf, Plan, Subject};
use crate::site::tests::{lawn, rect};
use crate::site::{DryKind, Motion, ObjectKind, Outline, Point, Shape, SiteObject, SpotHeight};
use crate::units::{Length, UnitSystem};
use proptest::prelude::*;

mod meaning;

fn ids(list: &[&str]) -> Vec<String> {
    list.iter().map(|s| (*s).to_owned()).collect()
}
fn m(metres: f64) -> Length {
    Length::from_m(metres)
}
fn doing(plan: &Plan, gesture: &Gesture) -> Result<(Plan, Edit), String> {
    let edit = gesture.edit(&Job::of(plan)).map_err(|e| e.to_string())?;
    apply(plan, &edit).map_err(|e| e.to_string())
}
fn done(plan: &Plan, gestures: &[Gesture]) -> Plan {
    gestures.iter().fold(plan.clone(), |plan, g| doing(&plan, g).unwrap_or_else(|e| panic!("{g:?}: {e}")).0)
}
fn add(thing: SiteObject) -> Gesture {
    Gesture::Add { thing }
}
fn paving(id: &str, x: f64, y: f64, w: f64, h: f64) -> SiteObject {
    NewKind::Dry(DryKind::Paving).thing(id, rect(x, y, w, h))
}
fn head(id: &str, x: f64, y: f64, facing: f64) -> Gesture {
    let head = DrawnHead {
        id: id.into(),
        at: Point::new(x, y),
        arc: 90,
        facing,
        radius: None,
        valve: None,
        locked: false,
    };
    Gesture::PlaceHead { group: "g1".into(), area: Some("a1".into()), nozzle: "spray-15".into(), head }
}
fn board() -> Plan {
    done(
        &Plan::new("Board", UnitSystem::Us),
        &[add(lawn("a1", rect(0.0, 0.0, 10.0, 10.0))), add(paving("p1", 4.0, -1.0, 2.0, 12.0))],
    )
}
fn area(plan: &Plan, id: &str) -> f64 {
    plan.site.object(id).unwrap().shape().unwrap().area_m2()
}

#[test]
fn a_path_cut_out_of_a_lawn_leaves_two_lawns_and_undo_one() {
    let plan = board();
    let (after, inverse) =
        doing(&plan, &Gesture::CutOut { id: "a1".into(), by: ids(&["p1"]), new: ids(&["a2"]) }).unwrap();
    assert!((area(&after, "a1") - 40.0).abs() < 1e-6 && (area(&after, "a2") - 40.0).abs() < 1e-6);
    let undone = apply(&after, &inverse).unwrap().0;
    assert_eq!(undone, plan);
    // Without a name for the second piece it is refused, and nothing has changed.
    let refused =
        doing(&plan, &Gesture::CutOut { id: "a1".into(), by: ids(&["p1"]), new: vec![] }).unwrap_err();
    assert!(refused.contains("would split into 2 pieces"), "{refused}");
}

#[test]
fn corners_and_edges_move_to_known_areas() {
    let plan = board();
    let moved =
        done(&plan, &[Gesture::Corner { id: "a1".into(), ring: 0, index: 2, to: Point::new(12.0, 10.0) }]);
    assert!((area(&moved, "a1") - 110.0).abs() < 1e-9);
    let wider = done(&plan, &[Gesture::Edge { id: "a1".into(), ring: 0, edge: 1, by: Point::new(2.0, 0.0) }]);
    assert!((area(&wider, "a1") - 120.0).abs() < 1e-9);
    let longer = done(&plan, &[Gesture::EdgeLength { id: "a1".into(), ring: 0, edge: 0, length: m(14.0) }]);
    assert!(
        (area(&longer, "a1") - 120.0).abs() < 1e-9,
        "a corner goes 4 m out: a triangle of 4 x 10 / 2 more"
    );
    let bent = done(&plan, &[Gesture::Bend { id: "a1".into(), ring: 0, edge: 0, rise: m(5.0) }]);
    assert!((area(&bent, "a1") - (100.0 + std::f64::consts::PI * 12.5)).abs() < 1e-6);
    // A corner on the arc leaves the arc as it was.
    let parted = done(
        &bent,
        &[Gesture::InsertCorner { id: "a1".into(), ring: 0, edge: 0, at: Point::new(5.0, -4.9) }],
    );
    assert!((area(&parted, "a1") - area(&bent, "a1")).abs() < 1e-6);
    assert_eq!(parted.site.object("a1").unwrap().shape().unwrap().outline.0.len(), 5);
    let back = done(&parted, &[Gesture::RemoveCorner { id: "a1".into(), ring: 0, index: 1 }]);
    assert!((area(&back, "a1") - 100.0).abs() < 1e-6);
    let square = done(
        &plan,
        &[
            Gesture::Chamfer { id: "a1".into(), ring: 0, index: 0, cut: m(1.0) },
            Gesture::Round { id: "a1".into(), ring: 0, index: 3, radius: m(1.0) },
        ],
    );
    assert!((area(&square, "a1") - (100.0 - 0.5 - (1.0 - std::f64::consts::FRAC_PI_4))).abs() < 1e-6);
}

#[test]
fn what_would_cross_itself_is_refused_where_it_is() {
    let plan = board();
    // The edge from (10, 0) to (-5, 5) crosses the left one, x = 0, at y = 10 / 3.
    let fault = Gesture::Corner { id: "a1".into(), ring: 0, index: 2, to: Point::new(-5.0, 5.0) }
        .edit(&Job::of(&plan))
        .unwrap_err();
    assert!(fault.message.contains("Lawn: the outline crosses or touches itself"), "{fault}");
    assert!(
        fault.about.as_deref() == Some("a1")
            && fault.place.unwrap().distance(Point::new(0.0, 10.0 / 3.0)) < 0.02,
        "{fault:?}"
    );
    // Past the gestures, as a file or another program might, it is refused all the same.
    let edit = Edit::put(lawn(
        "a9",
        Shape::plain(Outline::straight(&[
            Point::new(0.0, 0.0),
            Point::new(4.0, 4.0),
            Point::new(4.0, 0.0),
            Point::new(0.0, 4.0),
        ])),
    ));
    let Err(EditError::Faults(faults)) = apply(&plan, &edit) else { panic!("a crossing outline was taken") };
    assert!(
        faults[0].path.starts_with("site.things[2].what.shape")
            && faults[0].message.contains("Lawn: the outline crosses"),
        "{faults:?}"
    );
    // Two corners laid on one another: the place is where they lie.
    let fault = Gesture::Corner { id: "a1".into(), ring: 0, index: 1, to: Point::new(10.0, 10.0) }
        .edit(&Job::of(&plan))
        .unwrap_err();
    assert_eq!(
        (fault.message.as_str(), fault.place),
        ("Lawn: corners 2 and 3 are at the same point", Some(Point::new(10.0, 10.0)))
    );
    let told = |g: Gesture| doing(&plan, &g).unwrap_err();
    assert_eq!(
        told(Gesture::Corner { id: "x".into(), ring: 0, index: 0, to: Point::default() }),
        "is no longer on the plan"
    );
    assert_eq!(
        told(Gesture::Corner { id: "a1".into(), ring: 0, index: 9, to: Point::default() }),
        "corner 10 does not exist"
    );
    assert_eq!(
        told(Gesture::Corner { id: "a1".into(), ring: 3, index: 0, to: Point::default() }),
        "does not have that edge"
    );
    assert_eq!(told(add(lawn("a1", rect(0.0, 0.0, 1.0, 1.0)))), "is already on the plan");
    assert_eq!(
        told(Gesture::Join { ids: ids(&["a1", "p1"]) }),
        "an irrigated area cannot be joined with a no-spray area"
    );
    assert_eq!(told(Gesture::Remove { ids: vec![] }), "nothing selected");
    assert!(
        told(Gesture::Move {
            ids: ids(&["a1"]),
            motion: Motion::Turn { about: Point::default(), degrees: f64::NAN }
        })
        .contains("enter numbers to move")
    );
    assert!(
        told(Gesture::Move { ids: ids(&["a1"]), motion: Motion::Shift { by: Point::new(20_000.0, 0.0) } })
            .contains("enter numbers to move")
    );
}

#[test]
fn split_join_copy_strip_and_offset_are_one_edit_each() {
    let plan = board();
    let split = done(
        &plan,
        &[Gesture::Split {
            id: "a1".into(),
            from: Point::new(-1.0, 3.0),
            to: Point::new(11.0, 3.0),
            new: ids(&["a2"]),
        }],
    );
    assert!((area(&split, "a1") - 70.0).abs() < 1e-6 && (area(&split, "a2") - 30.0).abs() < 1e-6);
    let joined = done(&split, &[Gesture::Join { ids: ids(&["a1", "a2"]) }]);
    assert!((area(&joined, "a1") - 100.0).abs() < 1e-6 && joined.site.object("a2").is_none());
    let copied = done(
        &plan,
        &[Gesture::Copy {
            ids: ids(&["a1", "p1"]),
            new: ids(&["a3", "p3"]),
            motion: Motion::Mirror { from: Point::new(11.0, 0.0), to: Point::new(11.0, 1.0) },
        }],
    );
    assert!((area(&copied, "a3") - 100.0).abs() < 1e-9 && copied.site.objects.len() == 4);
    let bed = done(
        &plan,
        &[Gesture::Strip {
            id: "a1".into(),
            ring: 0,
            edge: 2,
            width: m(1.5),
            new: "b1".into(),
            kind: NewKind::Area(crate::site::AreaKind::Bed),
        }],
    );
    assert!((area(&bed, "b1") - 15.0).abs() < 1e-9);
    let inner = done(&plan, &[Gesture::Offset { id: "a1".into(), distance: m(-1.0), new: "a4".into() }]);
    assert!((area(&inner, "a4") - 64.0).abs() < 1e-9);
    assert_eq!(inner.site.objects[1].id, "a4", "above the one it came from, below the rest");
}

fn any_gesture() -> impl Strategy<Value = Gesture> {
    let id = || {
        prop_oneof![
            (0..4u8).prop_map(|n| format!("a{n}")),
            (0..4u8).prop_map(|n| format!("h{n}")),
            (0..4u8).prop_map(|n| format!("p{n}")),
            (0..4u8).prop_map(|n| format!("j{n}"))
        ]
    };
    let at = || {
        (-300..300i32, -300..300i32).prop_map(|(x, y)| Point::new(f64::from(x) / 10.0, f64::from(y) / 10.0))
    };
    let size = || (-60..60i32).prop_map(|n| m(f64::from(n) / 10.0));
    let motion = prop_oneof![
        at().prop_map(|by| Motion::Shift { by }),
        (at(), -360.0..360.0f64).prop_map(|(about, degrees)| Motion::Turn { about, degrees }),
        (at(), at()).prop_map(|(from, to)| Motion::Mirror { from, to }),
    ];
    prop_oneof![
        3 => (id(), at(), 1..20u8, 1..20u8, any::<bool>()).prop_map(|(id, p, w, h, dry)| {
            let shape = rect(p.x, p.y, f64::from(w), f64::from(h));
            Gesture::Add { thing: if dry { NewKind::Dry(DryKind::Paving).thing(&id, shape) } else { lawn(&id, shape) } }
        }),
        2 => (prop::collection::vec(at(), 1..4), id(), id(), id(), id()).prop_map(|(way, a, b, c, d)| {
            Gesture::LayPipe { of: LegOf::Main("s1".into()), way, new: vec![a, b, c, d] }
        }),
        1 => (prop::collection::vec(id(), 0..3)).prop_map(|ids| Gesture::Remove { ids }),
        1 => (prop::collection::vec(id(), 1..3), motion.clone()).prop_map(|(ids, motion)| Gesture::Move { ids, motion }),
        1 => (id(), id(), motion).prop_map(|(a, b, motion)| Gesture::Copy { ids: vec![a], new: vec![b], motion }),
        2 => (id(), 0..2usize, 0..6usize, at()).prop_map(|(id, ring, index, to)| Gesture::Corner { id, ring, index, to }),
        1 => (id(), 0..6usize, at()).prop_map(|(id, edge, at)| Gesture::InsertCorner { id, ring: 0, edge, at }),
        1 => (id(), 0..6usize).prop_map(|(id, index)| Gesture::RemoveCorner { id, ring: 0, index }),
        1 => (id(), 0..6usize, at()).prop_map(|(id, edge, by)| Gesture::Edge { id, ring: 0, edge, by }),
        1 => (id(), 0..6usize, size()).prop_map(|(id, edge, rise)| Gesture::Bend { id, ring: 0, edge, rise }),
        1 => (id(), 0..6usize, size()).prop_map(|(id, edge, length)| Gesture::EdgeLength { id, ring: 0, edge, length }),
        1 => (id(), 0..6usize, size()).prop_map(|(id, index, cut)| Gesture::Chamfer { id, ring: 0, index, cut }),
        1 => (id(), 0..6usize, size()).prop_map(|(id, index, radius)| Gesture::Round { id, ring: 0, index, radius }),
        1 => (id(), at(), at(), id()).prop_map(|(id, from, to, new)| Gesture::Split { id, from, to, new: vec![new] }),
        1 => (id(), id()).prop_map(|(a, b)| Gesture::Join { ids: vec![a, b] }),
        2 => (id(), id(), id(), id()).prop_map(|(id, by, a, b)| Gesture::CutOut { id, by: vec![by], new: vec![a, b] }),
        1 => (id(), size(), id()).prop_map(|(id, distance, new)| Gesture::Offset { id, distance, new }),
        1 => (id(), 0..4usize, size(), id()).prop_map(|(id, edge, width, new)| {
            Gesture::Strip { id, ring: 0, edge, width, new, kind: NewKind::Dry(DryKind::Path) }
        }),
        2 => (id(), at(), 40..360u16, prop::option::of(id())).prop_map(|(id, at, arc, area)| Gesture::PlaceHead {
            group: "g1".into(),
            area,
            nozzle: "spray-12".into(),
            head: DrawnHead { id, at, arc, facing: 0.0, radius: None, valve: None, locked: false },
        }),
        1 => (id(), -720.0..720.0f64, 0..400u16).prop_map(|(id, facing, arc)| Gesture::TurnHead { id, facing, arc }),
        1 => (id(), prop::option::of(size())).prop_map(|(id, radius)| Gesture::ThrowHead { ids: vec![id], radius }),
        1 => id().prop_map(|id| Gesture::ChangeNozzle { ids: vec![id], nozzle: "rotator-14".into(), group: "g2".into() }),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig {
        cases: 200,
        rng_seed: proptest::test_runner::RngSeed::Fixed(20_261_125),
        ..ProptestConfig::default()
    })]

    #[test]
    fn any_gestures_leave_a_sound_board_and_undo_leads_to_the_empty_one(
        gestures in prop::collection::vec(any_gesture(), 0..40),
    ) {
        let start = Plan::new("Board", UnitSystem::Metric);
        let (mut plan, mut log) = (start.clone(), Vec::new());
        for gesture in gestures {
            let Ok(edit) = gesture.edit(&Job::of(&plan)) else { continue };
            if let Ok((next, inverse)) = apply(&plan, &edit) {
                plan = next;
                log.push((edit, inverse));
            }
        }
        for thing in &plan.site.objects {
            if let Some(shape) = thing.shape() {
                prop_assert_eq!(shape.check(), Ok(()));
                prop_assert!(shape.area_m2() > 0.0);
                let p = shape.inner_point();
                prop_assert!(p.x.is_finite() && p.y.is_finite());
            }
        }
        prop_assert_eq!(&crate::plan::fold(start.clone(), log.iter().map(|(e, _)| e)).unwrap(), &plan);
        let json = serde_json::to_string(&plan).unwrap();
        prop_assert_eq!(&serde_json::from_str::<Plan>(&json).unwrap(), &plan);
        for (_, inverse) in log.iter().rev() { plan = apply(&plan, inverse).unwrap().0; }
        prop_assert_eq!(plan, start);
    }
}

#[test]
fn a_renamed_area_renames_what_is_called_by_it_and_nothing_that_somebody_named() {
    let mut p = crate::zone::tests::plan(60.0, "spray-12", &[(180, 6)]);
    let ground = crate::site::tests::lawn("a1", crate::site::tests::rect(0.0, 0.0, 12.0, 8.0));
    p.site.objects.push(SiteObject { name: "Front".into(), ..ground.clone() });
    let named = |g: &str, v: &str| {
        let mut p = p.clone();
        p.groups[0].area = Some("a1".into());
        p.groups[0].name = g.into();
        p.valves[0].name = v.into();
        let object = SiteObject { name: "Street lawn".into(), ..ground.clone() };
        let edit = super::save_object(&p, object);
        let (next, undo) = crate::job::tests::apply(&p, &edit).unwrap();
        assert_eq!(crate::job::tests::apply(&next, &undo).unwrap().0, p, "one step back");
        (next.groups[0].name.clone(), next.valves[0].name.clone())
    };
    let said = |g: &str, v: &str| (g.to_owned(), v.to_owned());
    assert_eq!(named("Front", "Front"), said("Street lawn", "Street lawn"));
    assert_eq!(named("Front", "Front 2"), said("Street lawn", "Street lawn 2"));
    assert_eq!(named("Front", "By the gate"), said("Street lawn", "By the gate"));
    assert_eq!(named("Corner heads", "Corner heads"), said("Corner heads", "Corner heads"));
    assert_eq!(named("Frontier", "Front"), said("Frontier", "Front"));
}

//! What is drawn means something to the rest of the plan: groups, water, pipes, zones.

use super::*;

#[test]
fn heads_by_hand_make_groups_by_nozzle_and_area() {
    let plan = done(
        &board(),
        &[head("h1", 0.0, 0.0, 45.0), head("h2", 10.0, 0.0, 135.0), head("h3", 10.0, 10.0, 225.0)],
    );
    assert_eq!((plan.groups.len(), plan.groups[0].drawn.len()), (1, 3));
    assert_eq!((plan.groups[0].name.as_str(), plan.groups[0].spacing), ("Lawn", Length::from_ft(15.0)));
    let turned = done(
        &plan,
        &[
            Gesture::TurnHead { id: "h2".into(), facing: -90.0, arc: 180 },
            Gesture::ThrowHead { ids: ids(&["h2"]), radius: Some(Length::from_ft(12.0)) },
        ],
    );
    let (_, h2) = turned.drawn_head("h2").unwrap();
    assert_eq!((h2.facing, h2.arc, h2.radius), (270.0, 180, Some(Length::from_ft(12.0))));
    let refused = doing(&plan, &Gesture::ThrowHead { ids: ids(&["h2"]), radius: Some(Length::from_ft(8.0)) })
        .unwrap_err();
    assert!(refused.contains("radius adjusts from 15 ft down to 11.2 ft"), "{refused}");
    // Another nozzle: a group of its own, which goes again with its last head.
    let two = done(
        &plan,
        &[Gesture::ChangeNozzle { ids: ids(&["h1"]), nozzle: "rotator-20".into(), group: "g2".into() }],
    );
    assert_eq!(
        two.groups.iter().map(|g| (g.nozzle.as_str(), g.drawn.len())).collect::<Vec<_>>(),
        [("spray-15", 2), ("rotator-20", 1)]
    );
    let one = done(&two, &[Gesture::Remove { ids: ids(&["h1"]) }]);
    assert_eq!(one.groups.len(), 1);
    // A mirrored copy looks the other way.
    let copy = done(
        &plan,
        &[Gesture::Copy {
            ids: ids(&["h1"]),
            new: ids(&["h9"]),
            motion: Motion::Mirror { from: Point::new(20.0, 0.0), to: Point::new(20.0, 5.0) },
        }],
    );
    let (_, h9) = copy.drawn_head("h9").unwrap();
    assert!((h9.facing - 135.0).abs() < 1e-9 && (h9.at.x - 40.0).abs() < 1e-9);
    assert!(
        doing(
            &plan,
            &Gesture::PlaceHead {
                group: "g9".into(),
                area: None,
                nozzle: "dripline-0.6".into(),
                head: DrawnHead { id: "h8".into(), ..h9.clone() }
            }
        )
        .unwrap_err()
        .contains("is not a spray or rotor head")
    );
}

#[test]
fn the_ground_says_what_a_head_waters() {
    let mut plan = board();
    // A house corner stands in the lawn: the inner corner of the L wants three quarters.
    let hole = rect(6.0, 6.0, 2.0, 2.0);
    plan = done(
        &plan,
        &[
            add(NewKind::Dry(DryKind::Building).thing("b1", hole.clone())),
            Gesture::CutOut { id: "a1".into(), by: ids(&["b1"]), new: vec![] },
        ],
    );
    let stands = |x: f64, y: f64| {
        let set = Gesture::SetHead {
            id: "h1".into(),
            at: Point::new(x, y),
            nozzle: "spray-10".into(),
            group: "g1".into(),
            valve: None,
        };
        let next = done(&plan, &[set]);
        let (g, h) = next.drawn_head("h1").unwrap();
        (g.area.clone(), h.arc, h.facing.round())
    };
    let a1 = Some("a1".to_owned());
    assert_eq!(stands(0.0, 0.0), (a1.clone(), 90, 45.0), "lower left corner");
    assert_eq!(stands(10.0, 10.0), (a1.clone(), 90, 225.0));
    assert_eq!(stands(5.0, 0.1), (a1.clone(), 180, 90.0), "on the lower edge, looking up");
    assert_eq!(stands(-0.2, 5.0), (a1.clone(), 180, 0.0), "a hand off the left edge");
    assert_eq!(stands(6.0, 6.0), (a1.clone(), 270, 225.0), "round the corner of the house");
    assert_eq!(stands(7.0, 8.0), (a1.clone(), 180, 90.0), "at the wall, looking away");
    assert_eq!(stands(3.0, 3.0), (a1, 360, 0.0));
    assert_eq!(stands(30.0, 3.0), (None, 360, 0.0), "on no area");
}

#[test]
fn two_people_collide_only_on_one_thing() {
    let plan = done(&board(), &[head("h1", 0.0, 0.0, 45.0), head("h2", 10.0, 0.0, 135.0)]);
    let subjects = |g: Gesture| g.edit(&Job::of(&plan)).unwrap().subjects();
    let meet = |a: &[Subject], b: &[Subject]| a.iter().any(|x| b.iter().any(|y| x.meets(y)));
    let shift =
        |id: &str| Gesture::Move { ids: ids(&[id]), motion: Motion::Shift { by: Point::new(1.0, 0.0) } };
    assert!(!meet(&subjects(shift("a1")), &subjects(shift("p1"))));
    assert!(!meet(&subjects(shift("h1")), &subjects(shift("h2"))), "two heads of one group");
    assert!(meet(
        &subjects(shift("a1")),
        &subjects(Gesture::CutOut { id: "a1".into(), by: ids(&["p1"]), new: ids(&["a2"]) })
    ));
    assert!(meet(&subjects(shift("h1")), &[Subject::Group("g1".into())]), "a head and its whole group");
}

#[test]
fn drawn_heads_are_piped_by_their_places_and_feel_the_ground() {
    use crate::assess::assess;
    use crate::plan::{Reading, ReadingKind, Valve};
    use crate::site::{PlaceKind, PlaceMark};
    use crate::units::Pressure;
    let mut plan =
        done(&board(), &[head("h1", 0.0, 0.0, 45.0), head("h2", 4.0, 0.0, 90.0), head("h3", 8.0, 0.0, 90.0)]);
    plan.supplies[0].readings.push(Reading {
        kind: ReadingKind::Static { pressure: Pressure::from_psi(60.0) },
        when: String::new(),
        instrument: String::new(),
        tap: String::new(),
    });
    plan.valves.push(Valve::new("v1", "Front", "s1"));
    let mut plan = done(
        &plan,
        &[
            add(SiteObject {
                id: "box".into(),
                name: String::new(),
                what: ObjectKind::Place(PlaceMark {
                    kind: PlaceKind::ValveBox,
                    at: Point::new(-2.0, 0.0),
                    supply: None,
                }),
            }),
            Gesture::HeadsToValve { ids: ids(&["h1", "h2", "h3"]), valve: Some("v1".into()) },
        ],
    );
    let legs = crate::zone::legs(
        Some(Point::new(-2.0, 0.0)),
        &[Point::new(8.0, 0.0), Point::new(0.0, 0.0), Point::new(4.0, 0.0)],
    );
    assert_eq!(
        legs.iter().map(|l| (l.head, l.parent)).collect::<Vec<_>>(),
        [(1, None), (2, Some(0)), (0, Some(1))]
    );
    let level = assess(&Job::of(&plan)).zones[0].zone.clone().unwrap();
    assert_eq!(level.heads.len(), 3);
    let lowest = |z: &crate::zone::ZoneAssessment| z.lowest().head.index;
    assert_eq!(lowest(&level), 2, "the last of the row");
    // By hand: area of 100 m2 shared by three equal quarter circles of 15 ft: 33.3 m2 each is more
    // than the square of 15 ft by its arc (5.2 m2), which counts until the area is covered.
    let square = Length::from_ft(15.0).m().powi(2) / 4.0;
    let rate = level.flow.lpm() * 60.0 / (3.0 * square);
    assert!((level.rate.mmph() - rate).abs() < 1e-6);
    // The far head on a bank 3 m up: 29.4 kPa less for it alone.
    for (id, x, h) in [("t1", -2.0, 0.0), ("t2", 0.0, 0.0), ("t3", 4.0, 0.0), ("t4", 8.0, 3.0)] {
        plan = done(
            &plan,
            &[add(SiteObject {
                id: id.into(),
                name: String::new(),
                what: ObjectKind::Height(SpotHeight { at: Point::new(x, 0.0), height: m(h) }),
            })],
        );
    }
    let bank = assess(&Job::of(&plan)).zones[0].zone.clone().unwrap();
    let fell = level.lowest().nozzle - bank.lowest().nozzle;
    assert!(
        (20.0..29.5).contains(&fell.kpa()),
        "{} kPa, less than the height alone since it then draws less",
        fell.kpa()
    );
    assert!((bank.height_range.m() - 3.0).abs() < 1e-9);
    assert!((plan.rise_of(&plan.groups[0], Some(&plan.valves[0])).m() - 3.0).abs() < 1e-9);
}

#[test]
fn a_kept_zone_is_reckoned_anew_when_the_ground_beneath_it_changes() {
    use crate::assess::{assess, assess_after};
    use crate::plan::{Reading, ReadingKind, Valve};
    use crate::units::Pressure;
    let mut plan = done(&board(), &[head("h1", 0.0, 0.0, 45.0), head("h2", 8.0, 0.0, 90.0)]);
    plan.supplies[0].readings.push(Reading {
        kind: ReadingKind::Static { pressure: Pressure::from_psi(60.0) },
        when: String::new(),
        instrument: String::new(),
        tap: String::new(),
    });
    plan.valves.push(Valve::new("v1", "Front", "s1"));
    let plan = done(&plan, &[Gesture::HeadsToValve { ids: ids(&["h1", "h2"]), valve: Some("v1".into()) }]);
    let before = assess(&Job::of(&plan));
    let spot = |x: f64, h: f64| ObjectKind::Height(SpotHeight { at: Point::new(x, 0.0), height: m(h) });
    for change in [
        vec![
            add(SiteObject { id: "t1".into(), name: String::new(), what: spot(8.0, 2.0) }),
            add(SiteObject { id: "t2".into(), name: String::new(), what: spot(0.0, 0.0) }),
        ],
        vec![
            Gesture::Corner { id: "a1".into(), ring: 0, index: 2, to: Point::new(3.0, 0.5) },
            Gesture::Corner { id: "a1".into(), ring: 0, index: 3, to: Point::new(0.0, 0.5) },
        ],
        vec![add(SiteObject {
            id: "w".into(),
            name: String::new(),
            what: ObjectKind::Place(crate::site::PlaceMark {
                kind: crate::site::PlaceKind::Water,
                at: Point::new(-30.0, 0.0),
                supply: None,
            }),
        })],
    ] {
        let next = done(&plan, &change);
        assert_eq!(assess_after(&Job::of(&next), Some(&before)), assess(&Job::of(&next)), "{change:?}");
        assert_ne!(assess(&Job::of(&next)).zones, before.zones, "{change:?}");
    }
}

use super::*;
use crate::plan::{DripLaying, RowEnds};
use crate::site::{DryKind, Form, KeepDry, ObjectKind, SiteObject};
use crate::zone::{assess_flushed, inputs_of, zone_of};
use proptest::prelude::*;

fn rows_of(plan: &mut Plan) -> &mut RowLaying {
    match plan.groups[0].drip.as_mut() {
        Some(DripLaying::Rows(rows)) => rows,
        _ => panic!("rows"),
    }
}

/// A bed of so many feet with emitters 12 in apart, rows at most `rows_in` apart, fed at a corner.
fn foot_bed(width: f64, height: f64, rows_in: f64) -> Plan {
    bed(rect(0.0, 0.0, ft(width), ft(height)), "dripline-0.6", 12.0, rows_in, Point::new(0.0, 0.0))
}

#[test]
fn a_bed_of_three_feet_takes_three_staggered_rows_joined_at_both_ends() {
    // 3 in edges leave 30 in: at most 15 or 18 in apart, two gaps either way.
    for rows_in in [15.0, 18.0] {
        let laid = laid(&foot_bed(20.0, 3.0, rows_in));
        assert_eq!(laid.rows.len(), 3);
        near(laid.row_spacing.inches(), 15.0, 1e-6);
        near(laid.dripline().ft(), 58.5, 1e-6);
        near(laid.longest_row().ft(), 19.5, 1e-6);
        // 234 in: 19 emitters from 6 in on, 19 from 12 in on.
        assert!(laid.rows.iter().all(|r| r.emitters == 19));
        let first: Vec<f64> = laid.rows.iter().map(|r| r.first.inches().round()).collect();
        assert_eq!(first, [6.0, 12.0, 6.0]);
        near(laid.flow().gpm(), 57.0 * 0.01, 1e-6);
        // A header of 30 in at either end; the feed to the corner: 3 in along and across.
        let header = laid.length_of(|p| p == Part::Header);
        near(header.inches(), 60.0, 1e-6);
        near(laid.length_of(|p| p == Part::Feed).inches(), 18f64.sqrt(), 1e-6);
        // Middle rows end in tees; three corners are elbows, the fourth is the feed's tee.
        let f = laid.fittings(Length::from_in(9.0));
        assert_eq!((f.tees, f.elbows, f.ends), (3, 3, 0));
    }
}

#[test]
fn rows_keep_even_under_the_spacing_and_go_along_the_longest_edge() {
    // 12 ft less 6 in: 138 in at most 16 apart are nine gaps of 15 1/3 in, ten rows of 21.5 ft.
    let plan = bed(rect(0.0, 0.0, ft(12.0), ft(22.0)), "dripline-0.6", 18.0, 16.0, Point::new(0.0, 0.0));
    let laid = laid(&plan);
    assert_eq!(laid.rows.len(), 10);
    near(laid.row_spacing.inches(), 138.0 / 9.0, 1e-6);
    near(laid.dripline().ft(), 215.0, 1e-6);
    near(laid.ground_m2 / 0.3048 / 0.3048, 264.0, 1e-6);
    // Up the sheet: that is its long side.
    assert!(laid.rows.iter().all(|r| (r.from.x - r.to.x).abs() < 1e-9));
}

#[test]
fn on_a_slope_rows_follow_the_contour_and_a_heading_overrules_all() {
    let mut plan = foot_bed(40.0, 10.0, 16.0);
    let ObjectKind::Area(area) = &mut plan.site.objects[0].what else { panic!() };
    (area.slope_percent, area.slope_toward) = (15.0, Some(90.0));
    // It falls to the right: rows run up and down the sheet, level, though that is the short way.
    let on_slope = laid(&plan);
    assert!(on_slope.rows.iter().all(|r| (r.from.x - r.to.x).abs() < 1e-9));
    let heights: Vec<f64> = on_slope.joints.iter().map(|j| j.height.m()).collect();
    let (low, high) = heights.iter().fold((0.0f64, 0.0f64), |(l, h), x| (l.min(*x), h.max(*x)));
    // 39.5 ft at 15 %, from the corner that is fed.
    near(low, -ft(39.75) * 0.15, 1e-6);
    near(high, 0.0, 1e-6);
    // Flushed at its foot, air at its head.
    near(on_slope.joints[on_slope.flush.unwrap()].height.m(), low, 0.16);
    near(on_slope.joints[on_slope.air.unwrap()].height.m(), high, 0.16);
    // The same from spot heights, where no slope is typed.
    let ObjectKind::Area(area) = &mut plan.site.objects[0].what else { panic!() };
    (area.slope_percent, area.slope_toward) = (0.0, None);
    for (i, (x, h)) in [(0.0, 6.0), (20.0, 3.0), (40.0, 0.0)].into_iter().enumerate() {
        for y in [0.0, 10.0] {
            plan.site.objects.push(SiteObject {
                id: format!("s{i}{y}"),
                name: String::new(),
                what: ObjectKind::Height(crate::site::SpotHeight {
                    at: Point::new(ft(x), ft(y)),
                    height: Length::from_ft(h),
                }),
            });
        }
    }
    assert!(laid(&plan).rows.iter().all(|r| (r.from.x - r.to.x).abs() < 0.05));
    rows_of(&mut plan).heading = Some(0.0);
    assert!(laid(&plan).rows.iter().all(|r| (r.from.y - r.to.y).abs() < 1e-9));
}

#[test]
fn a_rock_in_the_bed_is_gone_round_and_no_row_end_is_left_alone() {
    let mut plan = foot_bed(30.0, 12.0, 12.0);
    let rock = rect(ft(10.0), ft(4.0), ft(6.0), ft(4.0));
    plan.site.objects.push(SiteObject {
        id: "d1".into(),
        name: "Rock".into(),
        what: ObjectKind::Dry(KeepDry {
            kind: DryKind::Paving,
            height: None,
            form: Form::Region(rock.clone()),
        }),
    });
    let laid = laid(&plan);
    let inner = rect(ft(10.0) - 0.07, ft(4.0) - 0.07, ft(6.0) + 0.14, ft(4.0) + 0.14);
    for r in &laid.rows {
        for i in 0..=40 {
            let p = r.from + (r.to - r.from) * (f64::from(i) / 40.0);
            assert!(!inner.contains(p), "{p:?} lies in the rock's edge");
        }
    }
    assert!(laid.rows.len() > 12, "rows beside the rock are two each");
    let f = laid.fittings(Length::from_in(9.0));
    assert_eq!(f.ends, 0, "{f:?}");
    assert_eq!(laid.length_of(|p| p == Part::Link), Length::ZERO);
}

#[test]
fn ground_in_two_pieces_is_linked_once_and_an_l_has_no_tube_outside() {
    let mut plan = foot_bed(30.0, 12.0, 12.0);
    plan.site.objects.push(SiteObject {
        id: "d1".into(),
        name: "Path".into(),
        what: ObjectKind::Dry(KeepDry {
            kind: DryKind::Path,
            height: None,
            form: Form::Region(rect(ft(12.0), -1.0, ft(4.0), 6.0)),
        }),
    });
    let two = laid(&plan);
    let links = two.tubes.iter().filter(|t| t.part == Part::Link).count();
    assert_eq!(links, 1);
    let corner = [(0.0, 0.0), (12.0, 0.0), (12.0, 3.0), (4.0, 3.0), (4.0, 9.0), (0.0, 9.0)];
    let l = Shape::plain(crate::site::tests::ring(&corner));
    let plan = bed(l.clone(), "dripline-0.6", 12.0, 14.0, Point::new(0.0, 0.0));
    let found = laid(&plan);
    for t in found.tubes.iter().filter(|t| t.part != Part::Feed) {
        let (a, b) = (found.joints[t.from].at, found.joints[t.to].at);
        for i in 1..10 {
            let p = a + (b - a) * (f64::from(i) / 10.0);
            assert!(l.contains(p), "{:?} leaves the bed at {p:?}", t.part);
        }
    }
    assert_eq!(found.fittings(Length::from_in(9.0)).ends, 0);
}

#[test]
fn a_snake_is_one_line_led_back_to_its_start() {
    let mut plan = foot_bed(20.0, 5.0, 18.0);
    rows_of(&mut plan).ends = RowEnds::Snake;
    // 54 in: three gaps of 18 in, four rows; the way back runs along one side.
    let snake = laid(&plan);
    assert_eq!(snake.rows.len(), 4);
    near(snake.length_of(|p| p == Part::Turn).inches(), 54.0, 1e-6);
    near(snake.length_of(|p| p == Part::Return).inches(), 54.0, 1e-6);
    // Turns of 18 in are bent at 9 in and take no elbow; closer ones do, two each.
    let f = snake.fittings(Length::from_in(9.0));
    assert_eq!((f.tees, f.elbows), (1, 1), "{f:?}");
    assert_eq!(snake.fittings(Length::from_in(10.0)).elbows, 7);
    // Something in the bed: one line won't do.
    plan.site.objects.push(lawn("a2", rect(ft(8.0), ft(2.0), ft(2.0), ft(1.0))));
    assert_eq!(lay(&Job::of(&plan), &plan.groups[0]), Err(DripFault::NoSnake));
}

#[test]
fn parts_have_neighbouring_rows_and_as_many_emitters() {
    let mut plan = bed(rect(0.0, 0.0, ft(40.0), ft(36.0)), "dripline-0.9", 12.0, 18.0, Point::new(0.0, 0.0));
    let whole = laid(&plan);
    plan.groups[0].drawn.push(inlet("h2", Point::new(0.0, ft(18.0))));
    plan.groups[0].drawn.push(inlet("h3", Point::new(0.0, ft(36.0))));
    let parts = lay(&Job::of(&plan), &plan.groups[0]).unwrap();
    let counts: Vec<usize> = parts.iter().map(|p| p.emitters.len()).collect();
    assert_eq!(counts.iter().sum::<usize>(), whole.emitters.len());
    let (low, high) = (counts.iter().min().unwrap(), counts.iter().max().unwrap());
    assert!(high - low <= 40, "{counts:?}");
    near(parts.iter().map(|p| p.ground_m2).sum(), whole.ground_m2, 1e-6);
}

#[test]
fn what_can_not_be_laid_says_why() {
    let at = Point::new(0.0, 0.0);
    let fault = |plan: &Plan| lay(&Job::of(plan), &plan.groups[0]).unwrap_err();
    let narrow = bed(rect(0.0, 0.0, ft(20.0), ft(0.4)), "dripline-0.6", 12.0, 12.0, at);
    assert!(matches!(fault(&narrow), DripFault::TooNarrow { width, .. } if (width.ft() - 0.4).abs() < 0.01));
    let short = bed(rect(0.0, 0.0, ft(3.0), ft(2.0)), "dripline-0.6", 72.0, 12.0, at);
    assert!(matches!(fault(&short), DripFault::EmittersApart { row, .. } if (row.ft() - 2.5).abs() < 0.01));
    let mut gone = bed(rect(0.0, 0.0, 5.0, 5.0), "dripline-0.6", 12.0, 12.0, at);
    gone.site.objects.push(lawn("a2", rect(-1.0, -1.0, 9.0, 9.0)));
    assert_eq!(fault(&gone), DripFault::NothingLeft);
    gone.site.objects.clear();
    assert_eq!(fault(&gone), DripFault::NoArea);
    let huge = bed(rect(0.0, 0.0, 200.0, 200.0), "dripline-0.6", 6.0, 6.0, at);
    assert!(matches!(fault(&huge), DripFault::TooMany(n) if n > 1_000_000));
    // The zone says it in place of figures.
    let zone = zone_of(&Job::of(&narrow), &narrow.valves[0]).unwrap_err().to_string();
    assert!(zone.contains("drip in Bed cannot be laid"), "{zone}");
}

#[test]
fn a_laid_row_is_solved_as_it_is_reckoned_by_hand() {
    // One row of 360 ft: feed at its end, a valve of 1.5 psi before it.
    let mut plan =
        bed(rect(0.0, 0.0, ft(360.5), ft(0.55)), "dripline-0.6", 12.0, 12.0, Point::new(ft(0.25), ft(0.275)));
    plan.groups[0].distance = Length::ZERO;
    let row = laid(&plan);
    assert_eq!(row.rows.len(), 1);
    let zone = zone_of(&Job::of(&plan), &plan.valves[0]).unwrap();
    let emitters = row.emitters.len();
    near(emitters as f64, 360.0, 1.0);
    near(zone.flow.gpm(), 0.01 * emitters as f64, 1e-6);
    // The same row marched from its beginning; its first emitter is half a spacing nearer.
    let psi = |q: f64| 4.52 * q.powf(1.852) / (140f64.powf(1.852) * 0.56f64.powf(4.8704));
    let friction: f64 = (1..=emitters)
        .rev()
        .enumerate()
        .map(|(i, behind)| psi(0.01 * behind as f64) * if i == 0 { 0.5 } else { 1.0 })
        .sum();
    near(zone.lateral_inlet.psi() - zone.heads[0].nozzle.psi(), friction, 0.03);
}

#[test]
fn headers_even_the_pressure_out_and_flushing_is_told() {
    let plan = foot_bed(60.0, 12.0, 12.0);
    let job = Job::of(&plan);
    let inputs = inputs_of(&job, &plan.valves[0]).unwrap();
    let zone = assess_flushed(&inputs).unwrap();
    let [head] = &zone.heads[..] else { panic!("one inlet is one head") };
    assert!(head.highest >= head.nozzle && zone.spread < 0.1, "{zone:?}");
    near(zone.flow.gpm(), head.nominal_flow.gpm(), 1e-6);
    let [flush] = &zone.flushing[..] else { panic!("one grid is flushed") };
    assert!(flush.out > zone.flow && flush.slowest.fps() > 0.3, "{flush:?}");
    assert!(flush.taken > flush.out);
}

proptest! {
    #![proptest_config(ProptestConfig {
        cases: 48,
        rng_seed: proptest::test_runner::RngSeed::Fixed(20_261_127),
        ..ProptestConfig::default()
    })]

    /// Rows lie inside the area and off its edge, no farther apart than was chosen, staggered; every
    /// emitter is reached and gives its flow while it compensates.
    #[test]
    fn whatever_the_ground(
        radii in proptest::collection::vec(2.0..9.0f64, 3..9),
        rows_in in 10.0..24.0f64,
        emitters_in in prop_oneof![Just(6.0), Just(12.0), Just(18.0), Just(24.0)],
        heading in proptest::option::of(0.0..180.0f64),
        snake in any::<bool>(),
    ) {
        let n = radii.len();
        let corners: Vec<(f64, f64)> = radii
            .iter()
            .enumerate()
            .map(|(i, r)| {
                let a = i as f64 / n as f64 * std::f64::consts::TAU;
                (r * a.cos(), r * a.sin())
            })
            .collect();
        let shape = Shape::plain(crate::site::tests::ring(&corners));
        let mut plan = bed(shape.clone(), "dripline-0.6", emitters_in, rows_in, Point::new(9.0, 0.0));
        rows_of(&mut plan).heading = heading;
        if snake {
            rows_of(&mut plan).ends = RowEnds::Snake;
        }
        let job = Job::of(&plan);
        let parts = match lay(&job, &plan.groups[0]) {
            Ok(parts) => parts,
            Err(DripFault::NoSnake) => return Ok(()),
            Err(other) => panic!("{other}"),
        };
        let laid = &parts[0];
        prop_assert_eq!(&parts, &lay(&job, &plan.groups[0]).unwrap());
        prop_assert!(laid.row_spacing.inches() <= rows_in + 1e-6);
        let edge = Length::from_in(3.0).m();
        let ring = shape.outline.flat(0.001);
        for e in &laid.emitters {
            prop_assert!(shape.contains(e.at));
            let off = ring
                .iter()
                .zip(ring.iter().cycle().skip(1))
                .map(|(a, b)| crate::site::to_segment(e.at, *a, *b))
                .fold(f64::MAX, f64::min);
            prop_assert!(off >= edge - 0.015, "{off}");
        }
        // All joints hang together.
        let mut reached = vec![false; laid.joints.len()];
        reached[0] = true;
        loop {
            let before = reached.iter().filter(|r| **r).count();
            for t in &laid.tubes {
                let any = reached[t.from] || reached[t.to];
                (reached[t.from], reached[t.to]) = (any, any);
            }
            if reached.iter().filter(|r| **r).count() == before {
                break;
            }
        }
        prop_assert!(reached.iter().all(|r| *r));
        let zone = zone_of(&job, &plan.valves[0]).unwrap();
        if zone.heads[0].nozzle.psi() >= 8.5 {
            let each = 0.01 * laid.emitters.len() as f64;
            prop_assert!((zone.flow.gpm() - each).abs() < 1e-4, "{} {}", zone.flow.gpm(), each);
        }
    }
}

#[test]
fn drip_goes_with_its_ground_and_comes_back_with_it() {
    use crate::board::Gesture;
    let plan = bed(rect(0.0, 0.0, 6.0, 3.0), "dripline-0.6", 12.0, 16.0, Point::new(0.0, 0.0));
    let job = Job::of(&plan);
    let gone = Gesture::Remove { ids: vec!["a1".into()] };
    let (after, back) = job.apply(&gone.edit(&job).unwrap()).unwrap();
    assert!(after.groups.is_empty() && after.site.objects.is_empty());
    assert_eq!(after.apply(&back).unwrap().0, job);
}

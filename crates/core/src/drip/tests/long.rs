//! Rows longer than their tube feeds: cut across into lots with an inlet each.

use super::*;
use crate::plan::RowEnds;
use crate::site::tests::ring;
use crate::zone::zone_of;
use proptest::prelude::*;

/// A bed so many feet long and ten wide, 0.6 gph every 12 in, rows 16 in apart.
fn long(feet: f64) -> Job {
    Job::of(&bed(rect(0.0, 0.0, ft(feet), ft(10.0)), "dripline-0.6", 12.0, 16.0, Point::default()))
}
fn wished() -> DripWish {
    DripWish {
        nozzle: Some("dripline-0.6".into()),
        emitter_spacing: Some(Length::from_in(12.0)),
        row_spacing: Some(Length::from_in(16.0)),
        ..DripWish::default()
    }
}
fn longest(group: &HeadGroup) -> Option<f64> {
    match &group.drip {
        Some(DripLaying::Rows(rows)) => rows.longest.map(|l| l.ft()),
        _ => None,
    }
}

#[test]
fn a_thousand_feet_are_cut_into_three_lots_and_every_emitter_works() {
    // 25 psi less a tenth for the header feed 392 ft of 0.6 gph every 12 in (Hazen-Williams summed piece by piece
    // elsewhere): 390. Rows of 999.5 ft are cut into three of 333 ft.
    let job = long(1_000.0);
    let uncut = lay(&job, &job.groups[0]).unwrap();
    let made = design(&job, "a1", &wished(), None).unwrap();
    near(longest(&made.group).unwrap(), 390.0, 1e-6);
    assert_eq!((made.group.drawn.len(), made.parts.len()), (3, 3));
    let rows: Vec<_> = made.parts.iter().flat_map(|p| &p.rows).collect();
    assert_eq!(rows.len(), 3 * uncut[0].rows.len());
    for row in &rows {
        let ft = row.from.distance(row.to) / 0.3048;
        assert!((330.0..335.0).contains(&ft), "{ft}");
    }
    // Cut midway between two emitters, less an inch for the fitting: none is lost, none stands beside a cut.
    let emitters = |parts: &[Laid]| parts.iter().map(|p| p.emitters.len()).sum::<usize>();
    assert_eq!(emitters(&made.parts), emitters(&uncut));
    for row in &rows[uncut[0].rows.len()..] {
        assert!(row.first.inches() > 4.9, "{}", row.first.inches());
    }
    // Fed with 25 psi each lot works to its last emitter; the rows in one piece did not.
    let solved = |job: &Job| -> Vec<f64> {
        let zones = job.valves.iter().map(|v| zone_of(job, v).unwrap());
        zones.map(|z| z.heads.iter().map(|h| h.nozzle.psi()).fold(f64::MAX, f64::min)).collect()
    };
    assert!(solved(&job)[0] < 8.5, "{:?}", solved(&job));
    let mut plan = job.apply(&made.edit).unwrap().0.plan().clone();
    plan.valves = (1..=3).map(|i| Valve::new(&format!("v{i}"), "Drip", "s1")).collect();
    for (i, head) in plan.groups[0].drawn.iter_mut().enumerate() {
        head.valve = Some(format!("v{}", i + 1));
    }
    let lowest = solved(&Job::of(&plan));
    assert!(lowest.len() == 3 && lowest.iter().all(|p| *p > 8.5), "{lowest:?}");
}

#[test]
fn what_the_tube_feeds_is_left_in_one_piece_and_a_wish_is_kept() {
    // 300 ft: the tube feeds them.
    let made = design(&long(300.0), "a1", &wished(), None).unwrap();
    assert_eq!((longest(&made.group), made.parts.len()), (None, 1));
    // Nobody wants rows over 60 ft on 200: four lots of 50, and asked again the same.
    let job = long(200.0);
    let wish = DripWish { longest: Some(Length::from_ft(60.0)), ..wished() };
    let made = design(&job, "a1", &wish, None).unwrap();
    assert_eq!(made.parts.len(), 4);
    let (after, _) = job.apply(&made.edit).unwrap();
    let again = design(&after, "a1", &DripWish::like(&made.group), None).unwrap();
    assert_eq!(again.group, made.group);
    // Half the water of a lot: each of the four is parted in two, neighbours of one another.
    let half = made.parts[0].flow() * 0.51;
    assert_eq!(design(&job, "a1", &wish, Some(half)).unwrap().parts.len(), 8);
    // One inlet feeds all of it, cut or not: rows are joined from edge to edge.
    let mut one = made.group.clone();
    one.drawn.truncate(1);
    let laid = lay(&job, &one).unwrap();
    assert!(laid[0].longest_row().ft() > 199.0, "{}", laid[0].longest_row().ft());
    // Snaked, there are no rows to cut.
    let snaked = DripWish { ends: Some(RowEnds::Snake), ..wish };
    assert_eq!(design(&job, "a1", &snaked, None).unwrap().parts.len(), 1);
}

#[test]
fn rows_up_a_slope_are_cut_shorter() {
    // 4 % along the rows of 600 ft: up to 390 ft on the level, 15.6 ft up in those take 6.8 psi of them.
    let mut plan = long(600.0).plan().clone();
    let level = design(&Job::of(&plan), "a1", &wished(), None).unwrap();
    if let crate::site::ObjectKind::Area(area) = &mut plan.site.objects[0].what {
        area.slope_percent = 4.0;
    }
    let steep = design(&Job::of(&plan), "a1", &wished(), None).unwrap();
    let (level, steep) = (longest(&level.group).unwrap(), longest(&steep.group).unwrap());
    assert!(steep < level && steep > 200.0, "{steep} of {level} ft");
}

proptest! {
    #![proptest_config(ProptestConfig {
        cases: 48,
        rng_seed: proptest::test_runner::RngSeed::Fixed(20_261_128),
        ..ProptestConfig::default()
    })]

    /// Whatever the ground, cut rows are no longer than was asked, keep every emitter but those of ends too short
    /// for one, and every lot hangs together.
    #[test]
    fn lots_keep_to_their_length(
        radii in proptest::collection::vec(4.0..12.0f64, 3..9),
        longest in 3.0..15.0f64,
        hole in any::<bool>(),
    ) {
        let n = radii.len() as f64;
        let corner = |(i, r): (usize, &f64)| {
            let a = i as f64 / n * std::f64::consts::TAU;
            (r * a.cos(), r * a.sin())
        };
        let corners: Vec<(f64, f64)> = radii.iter().enumerate().map(corner).collect();
        let mut shape = Shape::plain(ring(&corners));
        if hole {
            shape.holes.push(ring(&[(-0.5, -0.5), (-0.5, 0.5), (0.5, 0.5), (0.5, -0.5)]));
        }
        let job = Job::of(&bed(shape, "dripline-0.6", 12.0, 16.0, Point::new(9.0, 0.0)));
        let uncut: usize = lay(&job, &job.groups[0]).unwrap().iter().map(|l| l.emitters.len()).sum();
        let wish = DripWish { longest: Some(Length::from_m(longest)), ..wished() };
        let made = match design(&job, "a1", &wish, None) {
            Ok(made) => made,
            Err(other) => panic!("{other}"),
        };
        prop_assert_eq!(made.parts.iter().map(|l| l.emitters.len()).sum::<usize>(), uncut);
        for laid in &made.parts {
            // Half a spacing over, where a cut goes to the middle between two emitters.
            prop_assert!(laid.longest_row().m() <= longest + 0.31, "{} of {longest}", laid.longest_row().m());
            let mut reached = vec![false; laid.joints.len()];
            reached[0] = true;
            for _ in 0..laid.joints.len() {
                let mut more = false;
                for t in &laid.tubes {
                    let any = reached[t.from] || reached[t.to];
                    more |= any && !(reached[t.from] && reached[t.to]);
                    (reached[t.from], reached[t.to]) = (any, any);
                }
                if !more {
                    break;
                }
            }
            prop_assert!(reached.iter().all(|r| *r));
        }
    }
}

//! Counted by hand first, then by the program.

use super::*;
use crate::assess::assess;
use crate::findings::Check;
use crate::job::Job;
use crate::plan::{
    ArcCount, Arrangement, DrawnHead, Edit, HeadGroup, Joint, JointKind, LegOf, Mainline, PartLine, PipeLeg,
    Plan, Valve,
};
use crate::site::{ObjectKind, PlaceKind, PlaceMark, Point, SiteObject};
use crate::units::{Length, UnitSystem};
use proptest::prelude::*;

fn ft(x: f64) -> Length {
    Length::from_ft(x)
}

fn take(plan: Plan) -> Takeoff {
    let job = Job::new(plan);
    assert!(job.faults().is_empty(), "{:?}", job.faults());
    takeoff(&job, &assess(&job))
}

/// Quantity of a part in all its lengths.
fn of(t: &Takeoff, part: &str) -> f64 {
    t.of(part).map(|l| l.quantity).sum()
}

/// Fittings by part.
fn fittings(t: &Takeoff) -> Vec<(&str, f64)> {
    let mut all: Vec<_> = t.section(LineKind::Fitting).map(|l| (l.part.as_str(), l.quantity)).collect();
    all.sort_by(|a, b| a.0.cmp(b.0));
    all
}

/// `n` sprays in a chain on one valve: `first` ft to the first, then 12 ft.
fn chain(n: u32, first: f64) -> Plan {
    let mut plan = Plan::new("Chain", UnitSystem::Us);
    plan.valves.push(Valve::new("v1", "Front", "s1"));
    plan.groups.push(HeadGroup {
        listed: vec![ArcCount { arc: 180, count: n, valve: Some("v1".into()) }],
        distance: ft(first),
        spacing: ft(12.0),
        ..HeadGroup::new("g1", "Front", "spray-12")
    });
    plan
}

#[test]
fn a_chain_of_four_heads_takes_three_tees_an_elbow_four_swing_joints_and_an_adapter() {
    // The valve is 1 in, the pipe 3/4 in: the adapter is 1 in, with a bush in its socket.
    let t = take(chain(4, 20.0));
    assert_eq!(
        fittings(&t),
        [
            ("glued-elbow-threaded-3/4in-1/2in", 1.0),
            ("glued-male-adapter-1in-1in", 1.0),
            ("glued-reducer-1in-3/4in", 1.0),
            ("glued-tee-threaded-3/4in-1/2in", 3.0),
            ("swing-joint-1/2in", 4.0),
        ]
    );
    // Legs of 20, 12, 12 and 12 ft: 56 ft in four sticks, since no two of 12 ft share one.
    let pipe = t.of("class-200-3/4in").next().unwrap();
    assert_eq!((pipe.quantity, pipe.unit.clone()), (4.0, Unit::Stick));
    assert!((pipe.used - 56.0 * 0.3048).abs() < 1e-9);
    assert_eq!(of(&t, "body-4in"), 4.0);
    assert_eq!(of(&t, "spray-12-180"), 4.0);
    assert_eq!(of(&t, "valve-1in"), 1.0);
    assert_eq!(of(&t, "box-round-6in"), 1.0);
    assert!(t.unmade.is_empty(), "{:?}", t.unmade);
}

#[test]
fn a_straight_leg_takes_a_coupling_for_every_stick_beyond_its_first() {
    for (first, couplings) in [(20.0, 0.0), (20.5, 1.0), (40.0, 1.0), (61.0, 3.0)] {
        let t = take(chain(2, first));
        assert_eq!(of(&t, "glued-coupling-3/4in"), couplings, "{first} ft");
    }
}

#[test]
fn on_three_quarter_valves_the_adapter_fits_by_itself() {
    let mut plan = chain(4, 20.0);
    plan.valves[0].model = "valve-3/4in".into();
    let t = take(plan);
    assert_eq!(of(&t, "glued-male-adapter-3/4in-3/4in"), 1.0);
    assert_eq!(of(&t, "glued-reducer-1in-3/4in"), 0.0);
}

#[test]
fn a_row_fed_in_its_middle_and_an_h_have_the_tees_that_they_need() {
    // Four heads fed in the middle: a plain tee between the second and the third, a threaded tee at each of
    // the inner two, a threaded elbow at each end.
    let mut plan = chain(4, 20.0);
    plan.groups[0].arrangement = Arrangement::Middle;
    let t = take(plan);
    assert_eq!(of(&t, "glued-tee-3/4in"), 1.0);
    assert_eq!(of(&t, "glued-tee-threaded-3/4in-1/2in"), 2.0);
    assert_eq!(of(&t, "glued-elbow-threaded-3/4in-1/2in"), 2.0);
    // Five: the feed comes to the third head, where three pipes and the head meet.
    let mut plan = chain(5, 20.0);
    plan.groups[0].arrangement = Arrangement::Middle;
    let t = take(plan);
    assert_eq!(of(&t, "glued-tee-3/4in"), 1.0);
    assert_eq!(of(&t, "glued-tee-threaded-3/4in-1/2in"), 3.0);
    assert_eq!(of(&t, "glued-elbow-threaded-3/4in-1/2in"), 2.0);
    // Eight in an H: the feed's tee, a tee in the middle of each row, inner heads on tees, four ends.
    let mut plan = chain(8, 20.0);
    plan.groups[0].arrangement = Arrangement::H;
    let t = take(plan);
    assert_eq!(of(&t, "glued-tee-3/4in"), 3.0);
    assert_eq!(of(&t, "glued-tee-threaded-3/4in-1/2in"), 4.0);
    assert_eq!(of(&t, "glued-elbow-threaded-3/4in-1/2in"), 4.0);
}

/// A box at the origin.
fn valve_box(id: &str) -> SiteObject {
    SiteObject {
        id: id.into(),
        name: String::new(),
        what: ObjectKind::Place(PlaceMark {
            kind: PlaceKind::ValveBox,
            at: Point::new(0.0, 0.0),
            supply: None,
        }),
    }
}

/// A valve at the origin with a drawn lateral: 30 ft east, a right angle, 10 ft north to a tee, heads 8 ft
/// east and west of it.
fn drawn() -> Plan {
    let mut plan = chain(0, 10.0);
    let at = |x: f64, y: f64| Point::new(x * 0.3048, y * 0.3048);
    plan.groups[0].listed.clear();
    let head = |id: &str, x, y| DrawnHead {
        id: id.into(),
        at: at(x, y),
        arc: 180,
        facing: 90.0,
        radius: None,
        valve: Some("v1".into()),
        locked: false,
    };
    plan.groups[0].drawn = vec![head("h1", 38.0, 10.0), head("h2", 22.0, 10.0)];
    plan.site.objects.push(valve_box("b1"));
    plan.valves[0].valve_box = Some("b1".into());
    plan.valves[0].model = "valve-3/4in".into();
    plan.piping.joints.push(Joint { id: "j1".into(), kind: JointKind::Tee, at: at(30.0, 10.0) });
    let leg = |id: &str, from: &str, to: &str, bends: Vec<Point>| PipeLeg {
        bends,
        ..PipeLeg::straight(id, LegOf::Lateral("v1".into()), from, to, "class-200 3/4in".parse().unwrap())
    };
    plan.piping.legs = vec![
        leg("p1", "v1", "j1", vec![at(30.0, 0.0)]),
        leg("p2", "j1", "h1", Vec::new()),
        leg("p3", "j1", "h2", Vec::new()),
    ];
    plan
}

#[test]
fn a_drawn_lateral_is_counted_at_its_bends_joints_and_ends() {
    let t = take(drawn());
    assert_eq!(
        fittings(&t),
        [
            ("glued-coupling-3/4in", 1.0),
            ("glued-elbow-90-3/4in", 1.0),
            ("glued-elbow-threaded-3/4in-1/2in", 2.0),
            ("glued-male-adapter-3/4in-3/4in", 1.0),
            ("glued-tee-3/4in", 1.0),
            ("swing-joint-1/2in", 2.0),
        ]
    );
    // 20 + 10, 10, 8, 8 ft: the 10 ft pieces share a stick, the 8 ft ones another.
    let pipe = t.of("class-200-3/4in").next().unwrap();
    assert_eq!(pipe.quantity, 3.0);
    assert_eq!(pipe.from, ["p1", "p2", "p3"]);
}

#[test]
fn where_the_size_ends_at_a_tee_its_smaller_branches_take_bushes() {
    let mut plan = drawn();
    plan.piping.legs[0].pipe = "class-200 1in".parse().unwrap();
    let t = take(plan);
    assert_eq!(of(&t, "glued-tee-1in"), 1.0);
    assert_eq!(of(&t, "glued-reducer-1in-3/4in"), 3.0, "two at the tee, one behind the valve's adapter");
}

#[test]
fn pe_bends_where_pvc_is_elbowed_and_its_barbs_are_clamped() {
    let mut plan = drawn();
    for leg in &mut plan.piping.legs {
        leg.pipe = "pe-sidr-15 3/4in".parse().unwrap();
    }
    plan.piping.legs[0].bends = vec![Point::new(27.0 * 0.3048, 0.0), Point::new(30.0 * 0.3048, 3.0 * 0.3048)];
    let t = take(plan);
    assert_eq!(of(&t, "insert-elbow-90-3/4in"), 0.0, "two turns of 45 degrees are bent");
    // Tee 3, two elbows at the heads 1 each, the adapter 1: six barbs.
    assert_eq!(of(&t, "clamp-3/4in"), 6.0);
    // 41.2 + 16 ft from one coil of 100 ft.
    let pipe = t.of("pe-sidr-15-3/4in").next().unwrap();
    assert_eq!((pipe.quantity, pipe.piece.map(|p| p.ft().round())), (1.0, Some(100.0)));
}

#[test]
fn drip_rows_on_metric_pipe_are_brought_over_by_threads_and_reduced_in_its_own_sizes() {
    // Six rows of 17 mm on a header of 25 mm: a pair of 1/2 in threads at each, 25 mm brought down to 20 mm.
    let mut plan = chain(6, 20.0);
    plan.groups[0].nozzle = "dripline-0.6".into();
    plan.groups[0].pipe = "pe100-sdr11 25mm".parse().unwrap();
    plan.groups[0].listed[0].arc = 360;
    plan.groups[0].row = Some(crate::plan::DripRow { emitters: 20, emitter_spacing: ft(1.0) });
    plan.valves[0].model = "valve-drip-3/4in".into();
    let t = take(plan);
    assert_eq!(of(&t, "compression-female-adapter-20mm-1/2in"), 6.0);
    assert_eq!(of(&t, "drip-male-adapter-17mm-1/2in"), 6.0);
    assert_eq!(of(&t, "compression-reducer-25mm-20mm"), 6.0);
    assert_eq!(of(&t, "drip-cap-17mm"), 6.0);
    assert!(t.lines.iter().all(|l| !l.part.contains("25mm-17mm")));
}

#[test]
fn tube_with_emitters_is_bought_by_what_they_give_and_how_far_they_are_apart() {
    // Six typed rows of 20 emitters a foot apart: 120 ft of tube, 1.05 with waste, two coils of 100 ft.
    let mut plan = chain(6, 20.0);
    plan.groups[0].nozzle = "dripline-0.6".into();
    plan.groups[0].pipe = "drip-poly 3/4in".parse().unwrap();
    plan.groups[0].listed[0].arc = 360;
    plan.groups[0].row = Some(crate::plan::DripRow { emitters: 20, emitter_spacing: ft(1.0) });
    let t = take(plan.clone());
    let tube: Vec<&Line> = t.of("dripline-0.6-12in").collect();
    let laid: f64 = tube.iter().map(|l| l.used).sum();
    assert!((laid - 120.0 * 0.3048).abs() < 1e-6, "{laid} m");
    assert_eq!(tube[0].text(), "Dripline 0.6 gph every 12 in");
    let cut = t.cuts.iter().find(|c| c.label == "Dripline 0.6 gph").unwrap();
    assert_eq!((cut.pieces.len(), cut.pieces[0].first), (6, Some(ft(1.0))));
    // Another emitter, or another spacing, is another coil; a metric job buys by the centimetre.
    let mut other = plan.groups[0].clone();
    other.id = "g9".into();
    other.row = Some(crate::plan::DripRow { emitters: 10, emitter_spacing: ft(1.5) });
    plan.groups.push(other);
    let both = take(plan.clone());
    assert!(both.of("dripline-0.6-12in").count() > 0 && both.of("dripline-0.6-18in").count() > 0);
    plan.units = UnitSystem::Metric;
    plan.groups.truncate(1);
    plan.groups[0].row = Some(crate::plan::DripRow { emitters: 20, emitter_spacing: Length::from_m(0.3) });
    assert_eq!(take(plan).of("dripline-0.6-30cm").count(), 1);
}

#[test]
fn a_listed_main_brings_its_adapters_and_its_pipe() {
    let mut plan = chain(4, 20.0);
    plan.valves[0].mainline =
        Some(Mainline { pipe: "pvc-40 1in".parse().unwrap(), length: ft(65.0), rise: Length::ZERO });
    let t = take(plan);
    // One at the connection, one at the valve's inlet, one at its outlet; 65 ft in four sticks, three
    // couplings.
    assert_eq!(of(&t, "glued-male-adapter-1in-1in"), 3.0);
    assert_eq!(of(&t, "pvc-40-1in"), 4.0);
    assert_eq!(of(&t, "glued-coupling-1in"), 3.0);
}

#[test]
fn what_a_hand_said_stands_after_the_plan_has_changed() {
    let mut plan = chain(4, 20.0);
    let said = |id: &str, part: Option<&str>, quantity| PartLine {
        id: id.into(),
        part: part.map(str::to_owned),
        text: "two are on the truck".into(),
        quantity,
        unit: String::new(),
    };
    plan.parts.lines = vec![said("l1", Some("swing-joint-1/2in"), 2.0), said("l2", None, 3.0)];
    let job = Job::new(plan);
    let (job, _) = job.apply(&Edit::put(HeadGroup { spacing: ft(11.0), ..job.groups[0].clone() })).unwrap();
    let t = takeoff(&job, &assess(&job));
    let swing = t.of("swing-joint-1/2in").next().unwrap();
    assert_eq!((swing.quantity, swing.used), (2.0, 4.0));
    assert!(swing.is_by_hand());
    assert_eq!(of(&t, "own-l2"), 3.0);
}

#[test]
fn what_is_not_known_is_said_and_not_counted_as_nothing() {
    let t = take(chain(4, 20.0));
    assert!(t.missing.contains(&Missing::Wire));
    assert!(t.missing.contains(&Missing::Main(vec!["v1".into()])));
    let mut plan = chain(4, 20.0);
    plan.groups[0].listed[0].valve = None;
    assert!(take(plan).missing.contains(&Missing::Unassigned(4)));
}

#[test]
fn tubes_of_one_length_come_out_of_a_coil_to_the_last_inch() {
    // 36 of 15 in are 45 ft; 80 of 15 in are 100 ft: one coil either way; one more takes another.
    for (n, coils) in [(36, 1), (80, 1), (81, 2)] {
        let tubes = vec![Length::from_in(15.0); n];
        let cut = cut_coils(&tubes, Length::ZERO, &[ft(100.0)], None);
        assert_eq!(cut.counts, [coils], "{n} tubes");
    }
}

#[test]
fn coils_go_by_price_where_there_is_one_and_by_length_where_there_is_none() {
    let rows = [ft(20.0); 32];
    let made = [100.0, 250.0, 500.0, 1000.0].map(ft);
    let by_length = cut_coils(&rows, ft(640.0), &made, None);
    assert_eq!(by_length.counts, [0, 1, 1, 0], "750 ft");
    let two = cut_coils(&rows, ft(640.0), &made[2..], Some(&[60.0, 100.0]));
    assert_eq!((two.counts, two.cost), (vec![0, 1], 100.0));
    // 45 ft over 500: a coil of 100 beside it beats another of 500.
    let rows = [ft(54.5); 10];
    let cut = cut_coils(&rows, ft(545.0), &made, Some(&[15.0, 34.0, 60.0, 100.0]));
    assert_eq!(cut.counts, [1, 0, 1, 0]);
}

#[test]
fn first_fit_in_the_order_of_the_list_would_take_a_stick_more() {
    let legs = [8.0, 8.0, 7.0, 12.0, 12.0, 9.0].map(ft);
    let cuts = cut_sticks(&legs, ft(20.0));
    assert!(cuts.is_best());
    let left: f64 = 60.0 - legs.iter().map(|l| l.ft()).sum::<f64>();
    assert!((left - 4.0).abs() < 1e-9);
}

#[test]
fn a_packing_that_first_fit_decreasing_misses_is_found() {
    // Of 10: 6, 4 | 5, 3, 2 | 5, 3, 2 fits three; longest first takes 6+4, 5+5, 3+3+2, 2.
    let legs = [6.0, 5.0, 5.0, 4.0, 3.0, 3.0, 2.0, 2.0].map(ft);
    let cuts = cut_sticks(&legs, ft(10.0));
    assert_eq!((cuts.sticks.len(), cuts.bound), (3, 3));
}

/// The fewest bins by trying everything.
fn fewest(pieces: &[i64], room: i64) -> usize {
    fn go(rest: &[i64], bins: &mut Vec<i64>, room: i64, best: &mut usize) {
        if bins.len() >= *best {
            return;
        }
        let Some((first, rest)) = rest.split_first() else {
            *best = bins.len();
            return;
        };
        for i in 0..bins.len() {
            if bins[i] >= *first {
                bins[i] -= first;
                go(rest, bins, room, best);
                bins[i] += first;
            }
        }
        bins.push(room - first);
        go(rest, bins, room, best);
        bins.pop();
    }
    let mut best = pieces.len() + 1;
    go(pieces, &mut Vec::new(), room, &mut best);
    best
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    #[test]
    fn cuts_fit_their_sticks_each_piece_once_and_as_few_as_can_be(
        pieces in prop::collection::vec(1i64..=20, 1..9)
    ) {
        let lengths: Vec<Length> = pieces.iter().map(|p| ft(*p as f64)).collect();
        let cuts = cut_sticks(&lengths, ft(20.0));
        let mut seen = vec![0; pieces.len()];
        for stick in &cuts.sticks {
            prop_assert!(stick.iter().map(|i| pieces[*i]).sum::<i64>() <= 20);
            stick.iter().for_each(|i| seen[*i] += 1);
        }
        prop_assert!(seen.iter().all(|n| *n == 1));
        prop_assert_eq!(cuts.sticks.len(), fewest(&pieces, 20));
        prop_assert!(cuts.bound <= cuts.sticks.len());
    }

    #[test]
    fn coils_hold_what_is_cut_from_them_and_cost_no_less_than_the_bound(
        pieces in prop::collection::vec(1.0f64..400.0, 1..25),
        prices in prop::option::of((8.0f64..20.0, 20.0f64..45.0, 40.0f64..90.0, 80.0f64..160.0)),
    ) {
        let made = [100.0, 250.0, 500.0, 1000.0].map(ft);
        let lengths: Vec<Length> = pieces.iter().map(|p| ft(*p)).collect();
        let total: f64 = pieces.iter().sum();
        let prices = prices.map(|p| [p.0, p.1, p.2, p.3]);
        let cut = cut_coils(&lengths, ft(total * 1.05), &made, prices.as_ref().map(|p| &p[..]));
        let sizes = cut.counts.iter().enumerate().flat_map(|(i, n)| (0..*n).map(move |_| made[i]));
        let mut bought = 0.0;
        for (size, inside) in sizes.zip(&cut.cut) {
            bought += size.ft();
            prop_assert!(inside.iter().map(|i| cut.pieces[*i].ft()).sum::<f64>() <= size.ft() + 0.01);
        }
        prop_assert!(bought >= total * 1.05 - 1e-6);
        prop_assert!(cut.cost >= cut.bound - 1e-6);
        prop_assert_eq!(cut.cut.iter().map(Vec::len).sum::<usize>(), cut.pieces.len());
    }

    #[test]
    fn pipe_bought_covers_pipe_laid_whatever_hangs_on_the_valve(
        n in 1u32..30, first in 1.0f64..200.0, arrangement in 0..3
    ) {
        let mut plan = chain(n, first);
        plan.groups[0].arrangement =
            [Arrangement::Chain, Arrangement::Middle, Arrangement::H][arrangement as usize];
        let t = take(plan);
        for line in t.section(LineKind::Pipe) {
            let piece = line.piece.unwrap().m();
            prop_assert!(line.quantity * piece >= line.used * 1.05 - 1e-6);
        }
        // Every head has its outlet: a threaded tee or elbow.
        let outlets: f64 = t.lines.iter().filter(|l| l.part.contains("-threaded-")).map(|l| l.quantity).sum();
        prop_assert_eq!(outlets, f64::from(n));
        prop_assert!(t.unmade.is_empty());
    }
}

#[test]
fn a_joint_that_can_t_be_made_is_a_finding_of_its_valve() {
    // Sound pipe is silent; an odd pair of sizes on one node is not.
    let mut plan = chain(4, 20.0);
    let job = Job::new(plan.clone());
    assert!(take(plan.clone()).findings(&job).is_empty());
    for everyday in ["copper-l 3/4in", "pvc-40 2in", "pe-sidr-15 1in", "pe100-sdr11 32mm", "galvanised 1in"] {
        plan.groups[0].pipe = everyday.parse().unwrap();
        assert!(take(plan.clone()).findings(&job).is_empty(), "{everyday}");
    }
    // Nobody solders a tee of 3 in: each kind of joint once, whatever the number of heads.
    plan.groups[0].pipe = "copper-l 3in".parse().unwrap();
    let found = take(plan).findings(&job);
    let tees = found
        .iter()
        .filter(|f| matches!(&f.1.check, Check::JointUnmade { wanted, .. } if wanted.contains("tee")));
    assert_eq!(tees.count(), 1);
    for (of, finding) in &found {
        assert_eq!((of.as_str(), finding.code()), ("v1", "joint-unmade"));
    }
}

use super::size::Limits;
use super::*;
use crate::earthwork::{BadPlace, Cover, Ground, bad_place, earthwork};
use crate::job::Job;
use crate::plan::{DrawnHead, Edit, HeadGroup, LegOf, Plan, Reading, ReadingKind, Valve};
use crate::site::tests::{lawn, rect};
use crate::site::{
    DryKind, Form, KeepDry, ObjectKind, PlaceKind, PlaceMark, Planting, Point, Shape, SiteObject,
};
use crate::units::{Flow, Length, Pressure, Speed, UnitSystem};
use crate::zone::{Bore, zone_of};
use proptest::prelude::*;

fn at(x: f64, y: f64) -> Point {
    Point::new(x, y)
}
fn dry(id: &str, kind: DryKind, shape: Shape) -> SiteObject {
    SiteObject {
        id: id.into(),
        name: String::new(),
        what: ObjectKind::Dry(KeepDry { kind, height: None, form: Form::Region(shape) }),
    }
}
pub(super) fn mark(id: &str, kind: PlaceKind, x: f64, y: f64) -> SiteObject {
    SiteObject {
        id: id.into(),
        name: String::new(),
        what: ObjectKind::Place(PlaceMark { kind, at: at(x, y), supply: None }),
    }
}
fn tree_of(id: &str, x: f64, y: f64, canopy: f64) -> SiteObject {
    SiteObject {
        id: id.into(),
        name: String::new(),
        what: ObjectKind::Plant(Planting {
            canopy: Length::from_m(canopy),
            at: at(x, y),
            to: None,
            count: 1,
        }),
    }
}
pub(super) fn head(id: &str, x: f64, y: f64, valve: Option<&str>) -> DrawnHead {
    DrawnHead {
        id: id.into(),
        at: at(x, y),
        arc: 180,
        facing: 90.0,
        radius: None,
        valve: valve.map(str::to_owned),
        locked: false,
    }
}
/// A site with 60 psi at the meter in the corner, things on the ground, and sprays on a valve.
pub(super) fn site(things: Vec<SiteObject>, heads: &[(f64, f64)]) -> Job {
    let mut plan = Plan::new("Test", UnitSystem::Us);
    plan.supplies[0].readings.push(Reading {
        kind: ReadingKind::Static { pressure: Pressure::from_psi(60.0) },
        when: String::new(),
        instrument: String::new(),
        tap: String::new(),
    });
    plan.site.objects = things;
    plan.site.objects.push(mark("m1", PlaceKind::Meter, 0.0, 0.0));
    let spot = |(i, p): (usize, &(f64, f64))| head(&format!("h{}", i + 1), p.0, p.1, Some("v1"));
    plan.groups.push(HeadGroup {
        drawn: heads.iter().enumerate().map(spot).collect(),
        ..HeadGroup::new("g1", "Lawn", "spray-12")
    });
    plan.valves.push(Valve::new("v1", "Lawn", "s1"));
    Job::new(plan)
}
fn done(job: &Job) -> Job {
    let routed = routes(job, Scope::All);
    assert_eq!(routed.faults, vec![], "nothing in the way");
    let job = job.apply(&routed.edit.expect("something to lay")).expect("applies").0;
    match sizes(&job, None).edit {
        Some(edit) => job.apply(&edit).expect("applies").0,
        None => job,
    }
}
fn joined(job: &Job, points: &[Point]) -> Tree {
    let ground = Ground::of(job);
    join(&Roads::new(&ground, points), points)
}
fn bare(things: Vec<SiteObject>) -> Job {
    let mut plan = Plan::new("Test", UnitSystem::Us);
    plan.site.objects = things;
    Job::new(plan)
}
fn near(a: f64, b: f64, off: f64) {
    assert!((a - b).abs() < off, "{a} is not {b}");
}

// Routes with answers known by hand.

#[test]
fn a_straight_run_is_straight() {
    let tree = joined(&bare(vec![]), &[at(0.0, 0.0), at(5.0, 0.0), at(12.0, 0.0)]);
    near(tree.length(), 12.0, 1e-9);
    assert_eq!(tree.edges.len(), 2);
    near(least_trench(&[at(0.0, 0.0), at(5.0, 0.0), at(12.0, 0.0)]), 12.0, 1e-6);
}

#[test]
fn three_points_meet_squarely_within_the_bound_of_120_degrees() {
    // An equilateral triangle of 10 m: a side and its height, where three legs of 10/√3 would do at 120 degrees.
    let top = at(5.0, 75f64.sqrt());
    let points = [at(0.0, 0.0), at(10.0, 0.0), top];
    let tree = joined(&bare(vec![]), &points);
    near(tree.length(), 10.0 + 75f64.sqrt(), 0.002);
    near(least_trench(&points), 30.0 / 3f64.sqrt(), 1e-4);
    // A corner of more than 120 degrees is the meeting point itself.
    // Tees branch squarely: the third's way onto the run between two, 10 m and 9 m.
    near(square_branch([at(0.0, 0.0), at(10.0, 0.0), at(5.0, 9.0)]).distance(at(5.0, 0.0)), 0.0, 1e-9);
    near(meeting_point([at(0.0, 0.0), at(-5.0, 1.0), at(5.0, 1.0)]).norm(), 0.0, 1e-9);
}

#[test]
fn four_corners_of_a_square_are_joined_along_three_sides() {
    // A square of 10 m: 30 m; two points of 120 degrees would make 10 (1 + √3) = 27.32 m of it, with no fitting for them.
    let points = [at(0.0, 0.0), at(10.0, 0.0), at(10.0, 10.0), at(0.0, 10.0)];
    let tree = joined(&bare(vec![]), &points);
    near(tree.length(), 30.0, 0.02);
    let bound = least_trench(&points);
    assert!(bound <= tree.length() && bound > 0.82 * 30.0, "{bound}");
}

#[test]
fn a_house_in_the_way_is_gone_round() {
    // From (0,5) to (20,5) round a house from (8,0) to (12,7): over the top at 3 ft off, tangents to
    // circles of 3 ft about its corners: 2 √(8² + 2² - r²) + 4 + 2 r (atan(2/8) + asin(r/√68)).
    let house = dry("b1", DryKind::Building, rect(8.0, 0.0, 4.0, 7.0));
    let tree = joined(&bare(vec![house]), &[at(0.0, 5.0), at(20.0, 5.0)]);
    let off = 0.9144f64;
    let turn = (2.0f64 / 8.0).atan() + (off / 68f64.sqrt()).asin();
    let by_hand = 2.0 * (68.0 - off * off).sqrt() + 4.0 + 2.0 * off * turn;
    near(tree.length(), by_hand, 0.15);
    for e in &tree.edges {
        let ground = Ground::of(&bare(vec![dry("b1", DryKind::Building, rect(8.0, 0.0, 4.0, 7.0))]));
        assert!(ground.trench(tree.points[e.a], tree.points[e.b]).is_some());
    }
}

#[test]
fn a_drive_is_crossed_once_at_a_right_angle_in_a_sleeve() {
    // A drive 3 m wide from y = -30 to 40 between x = 10 and 13; three heads beyond it.
    let drive = dry("d1", DryKind::Paving, rect(10.0, -30.0, 3.0, 70.0));
    let job = site(
        vec![lawn("a1", rect(14.0, 5.0, 12.0, 12.0)), drive],
        &[(16.0, 8.0), (16.0, 11.0), (16.0, 14.0)],
    );
    let job = done(&job);
    let work = earthwork(&job, &Ground::of(&job));
    assert_eq!(work.crossings.len(), 1, "{:?}", work.crossings);
    let c = &work.crossings[0];
    assert!(c.sleeved);
    near(c.from.distance(c.to), 3.0 + 2.0 * 0.3048, 0.01);
    near((c.to - c.from).y.abs(), 0.0, 0.01);
    // The sleeve is two sizes up on its pipe.
    let leg = job.piping.legs.iter().find(|l| l.sleeve.is_some()).expect("a sleeve");
    let bore = |id: &crate::catalogue::PipeId| job.catalogue().pipe(id).expect("known").inside.m();
    assert!(bore(leg.sleeve.as_ref().expect("one")) > bore(&leg.pipe) * 1.3);
}

#[test]
fn a_main_keeps_to_the_edge_of_a_lawn_where_that_costs_little() {
    // A lawn of 30 x 4 m, from corner to corner: straight 29.6 m and 17 of it inside, which count as 4 more;
    // along the edge 32.8 m.
    let lawn = lawn("a1", rect(0.0, 0.0, 30.0, 4.0));
    let ground = Ground::for_mains(&bare(vec![lawn]));
    let points = [at(0.3, 0.3), at(29.7, 3.7)];
    let tree = join(&Roads::new(&ground, &points), &points);
    assert!(tree.length() < 33.5, "{}", tree.length());
    let across = |e: &TreeEdge| ground.length_on(tree.points[e.a], tree.points[e.b], Cover::Lawn).0;
    let inside: f64 = tree.edges.iter().map(across).sum();
    assert!(inside < 6.0, "{inside} m inside");
}

#[test]
fn two_heads_beyond_a_drive_share_its_crossing() {
    let drive = dry("d1", DryKind::Paving, rect(10.0, -20.0, 3.0, 60.0));
    let job = bare(vec![drive]);
    let tree = joined(&job, &[at(5.0, 5.0), at(16.0, 3.0), at(16.0, 7.0)]);
    assert_eq!(tree.edges.iter().filter(|e| e.sleeve).count(), 1);
    assert_eq!(tree.cut_off, Vec::<usize>::new());
}

#[test]
fn a_head_walled_in_is_told_and_the_rest_is_laid() {
    let wall = |id: &str, x, y, w, h| dry(id, DryKind::Building, rect(x, y, w, h));
    let mut job = site(
        vec![
            lawn("a1", rect(0.0, 0.0, 30.0, 30.0)),
            wall("w1", 19.0, 19.0, 4.0, 0.5),
            wall("w2", 19.0, 22.5, 4.0, 0.5),
            wall("w3", 19.0, 19.0, 0.5, 4.0),
            wall("w4", 22.5, 19.0, 0.5, 4.0),
        ],
        &[(5.0, 5.0), (5.0, 9.0), (21.0, 21.0)],
    );
    let routed = routes(&job, Scope::All);
    assert_eq!(routed.faults, vec![RouteFault::NoWay { to: "h3".into() }]);
    job = job.apply(&routed.edit.expect("the rest")).expect("applies").0;
    assert!(job.piping.legs.iter().any(|l| l.to == "h1" || l.from == "h1"));
}

#[test]
fn a_supply_without_a_place_and_a_box_in_the_house_are_told() {
    let mut plan =
        site(vec![lawn("a1", rect(0.0, 0.0, 20.0, 20.0))], &[(5.0, 5.0), (9.0, 5.0)]).plan().clone();
    plan.site.objects.retain(|o| o.id != "m1");
    let routed = routes(&Job::new(plan.clone()), Scope::All);
    assert_eq!(routed.faults, vec![RouteFault::NoConnection { supply: "s1".into() }]);
    assert!(routed.edit.is_some(), "laterals are proposed all the same");

    plan.site.objects.push(dry("b1", DryKind::Building, rect(30.0, 0.0, 8.0, 8.0)));
    plan.site.objects.push(mark("x1", PlaceKind::ValveBox, 33.0, 3.0));
    plan.valves[0].valve_box = Some("x1".into());
    let faults = routes(&Job::new(plan), Scope::All).faults;
    let why = BadPlace::On("b1".into());
    assert!(faults.contains(&RouteFault::BadBox { place: "x1".into(), why }), "{faults:?}");
}

#[test]
fn boxes_keep_off_canopies_and_hollows() {
    let job = bare(vec![tree_of("t1", 5.0, 5.0, 6.0), dry("d1", DryKind::Paving, rect(20.0, 0.0, 4.0, 4.0))]);
    let ground = Ground::of(&job);
    assert_eq!(bad_place(&job, &ground, at(7.0, 5.0)), Some(BadPlace::Canopy("t1".into())));
    assert_eq!(bad_place(&job, &ground, at(8.5, 5.0)), None);
    assert_eq!(bad_place(&job, &ground, at(21.0, 1.0)), Some(BadPlace::On("d1".into())));
}

#[test]
fn pipes_side_by_side_are_one_trench() {
    let mut plan = site(vec![], &[(10.0, 0.1), (14.0, 0.1)]).plan().clone();
    let pipe = "class-200 1in";
    let leg = |id: &str, of: LegOf, from: &str, to: &str| {
        crate::plan::PipeLeg::straight(id, of, from, to, pipe.parse().expect("a pipe"))
    };
    plan.site.objects.push(mark("x1", PlaceKind::ValveBox, 8.0, 0.0));
    plan.valves[0].valve_box = Some("x1".into());
    // The main runs 8 m; the lateral goes back beside it by 3 m, then there is a head further on.
    plan.piping.joints.push(crate::plan::Joint {
        id: "j1".into(),
        kind: Default::default(),
        at: at(5.0, 0.1),
    });
    plan.piping.legs = vec![
        leg("p1", LegOf::Main("s1".into()), "s1", "x1"),
        leg("p2", LegOf::Lateral("v1".into()), "v1", "j1"),
        leg("p3", LegOf::Lateral("v1".into()), "v1", "h1"),
        leg("p4", LegOf::Lateral("v1".into()), "h1", "h2"),
    ];
    let job = Job::new(plan);
    let work = earthwork(&job, &Ground::of(&job));
    near(work.length().m(), 14.0, 0.05);
    let shared = work.trenches.iter().find(|t| t.legs.contains(&"p1".to_owned())).expect("the main's");
    assert!(shared.legs.contains(&"p2".to_owned()));
    near(shared.depth.inches(), 18.0, 1e-6);
}

// Sizes.

fn bores() -> Vec<Size> {
    // Class 200, 3/4 to 1 1/2 in, priced by the square of the bore.
    [0.930, 1.189, 1.502, 1.720]
        .iter()
        .map(|d| Size { bore: Bore { inside: Length::from_in(*d), c: 150.0 }, price: d * d })
        .collect()
}
fn limits(inlet: f64, spread: Option<f64>) -> Limits {
    Limits {
        inlet: Pressure::from_psi(inlet),
        velocity: Speed::from_fps(5.0),
        spread: spread.map(Pressure::from_psi),
        fittings: 0.1,
    }
}
fn leg(parent: Option<usize>, ft: f64, gpm: f64, rise: f64, wants: Option<f64>) -> SizeLeg {
    SizeLeg {
        parent,
        length: Length::from_ft(ft),
        flow: Flow::from_gpm(gpm),
        rise: Length::from_ft(rise),
        pinned: None,
        wants: wants.map(Pressure::from_psi),
    }
}

/// Every choice of sizes, one after the other: cost of the cheapest that keeps to everything. Written out
/// again with the trade's own formula.
fn exhaustive(legs: &[SizeLeg], sizes: &[Size], limits: Limits) -> Option<f64> {
    let n = legs.len();
    let mut best: Option<f64> = None;
    for code in 0..sizes.len().pow(n as u32) {
        let pick: Vec<usize> = (0..n).map(|i| code / sizes.len().pow(i as u32) % sizes.len()).collect();
        let mut lost = vec![0.0; n];
        let (mut cost, mut fine) = (0.0, true);
        let (mut most, mut least) = (f64::MIN, f64::MAX);
        for (i, leg) in legs.iter().enumerate() {
            let s = sizes[pick[i]];
            let d = s.bore.inside.inches();
            let q = leg.flow.gpm();
            fine &= 0.408_5 * q / (d * d) <= 5.0 + 1e-4;
            let kpa = 9.80665 * 10.67 * leg.length.m() * 1.1 * (leg.flow.lpm() / 60_000.0).powf(1.852)
                / (150f64.powf(1.852) * s.bore.inside.m().powf(4.8704))
                + 9.80665 * leg.rise.m();
            lost[i] = leg.parent.map_or(0.0, |p| lost[p]) + kpa;
            cost += s.price * leg.length.m();
            if let Some(wants) = leg.wants {
                fine &= limits.inlet.kpa() - lost[i] >= wants.kpa() - 1e-6;
                most = most.max(lost[i]);
                least = least.min(lost[i]);
            }
        }
        fine &= limits.spread.is_none_or(|s| most - least <= s.kpa() + 1e-6);
        if fine && best.is_none_or(|b| cost < b) {
            best = Some(cost);
        }
    }
    best
}

#[test]
fn a_plain_chain_takes_the_sizes_that_a_search_of_all_takes() {
    // Four sprays of 2 gpm, 12 ft apart, 40 ft from the valve, 38 psi behind it.
    let legs: Vec<SizeLeg> = (0..4)
        .map(|i: usize| {
            leg(i.checked_sub(1), if i == 0 { 40.0 } else { 12.0 }, 8.0 - 2.0 * i as f64, 0.0, Some(30.0))
        })
        .collect();
    for spread in [None, Some(6.0), Some(2.0)] {
        let sized = least_cost(&legs, &bores(), limits(38.0, spread));
        assert!(sized.proven && sized.short.is_none());
        near(sized.cost, exhaustive(&legs, &bores(), limits(38.0, spread)).expect("there is one"), 1e-9);
    }
}

#[test]
fn where_pressure_is_lacking_whatever_the_pipe_no_money_is_spent_on_pipe() {
    // 0.6 gpm 60 ft on, 20 psi there for a head that wants 30: 0.05 psi lost in the smallest.
    let legs = [leg(None, 60.0, 0.6, 0.0, Some(30.0))];
    let sized = least_cost(&legs, &bores(), limits(20.0, None));
    assert!(matches!(sized.short, Some(Short::Pressure(p)) if (p.psi() - 10.0).abs() < 0.1), "{sized:?}");
    assert_eq!(sized.sizes, [0]);
}

#[test]
fn what_the_largest_pipe_can_t_keep_is_said() {
    let legs = [leg(None, 400.0, 10.0, 0.0, Some(30.0))];
    let sized = least_cost(&legs, &bores(), limits(30.5, None));
    assert!(matches!(sized.short, Some(Short::Pressure(_))), "{sized:?}");
    assert_eq!(sized.sizes, vec![3]);
    // 60 gpm in 1 1/2 in: 0.4085 · 60 / 1.72² = 8.3 ft/s.
    let fast = least_cost(&[leg(None, 10.0, 60.0, 0.0, Some(10.0))], &bores(), limits(60.0, None));
    match fast.short {
        Some(Short::Velocity(0, v)) => near(v.fps(), 8.28, 0.02),
        other => panic!("{other:?}"),
    }
}

#[test]
fn a_pinned_size_stays_and_the_rest_is_made_good() {
    let mut legs: Vec<SizeLeg> =
        (0..3).map(|i: usize| leg(i.checked_sub(1), 60.0, 6.0 - 2.0 * i as f64, 0.0, Some(30.0))).collect();
    legs[1].pinned = Some(0);
    let sized = least_cost(&legs, &bores(), limits(34.0, None));
    assert_eq!(sized.sizes[1], 0);
    assert!(sized.short.is_none());
    let free = SizeLeg { pinned: None, ..legs[1] };
    legs[1] = free;
    assert!(least_cost(&legs, &bores(), limits(34.0, None)).cost <= sized.cost + 1e-9);
}

/// A random tree of up to eight heads.
fn any_tree() -> impl Strategy<Value = (Vec<SizeLeg>, f64, Option<f64>)> {
    let one = (0usize..100, 5.0..80.0f64, 0.5..3.0f64, -3.0..3.0f64);
    let legs = prop::collection::vec(one, 1..8);
    (legs, 31.0..45.0f64, prop::option::of(1.0..8.0f64)).prop_map(|(raw, inlet, spread)| {
        let mut legs: Vec<SizeLeg> = Vec::new();
        for (i, (parent, ft, gpm, rise)) in raw.into_iter().enumerate() {
            let parent = if i == 0 { None } else { Some(parent % i) };
            legs.push(leg(parent, ft, gpm, rise, Some(30.0)));
        }
        for i in (0..legs.len()).rev() {
            if let Some(p) = legs[i].parent {
                legs[p].flow = legs[p].flow + legs[i].flow;
            }
        }
        (legs, inlet, spread)
    })
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 150, ..ProptestConfig::default() })]
    #[test]
    fn no_choice_of_sizes_is_cheaper_on_small_trees((legs, inlet, spread) in any_tree()) {
        let limits = limits(inlet, spread);
        let sized = least_cost(&legs, &bores(), limits);
        match exhaustive(&legs, &bores(), limits) {
            Some(cost) => {
                prop_assert!(sized.short.is_none() && sized.proven, "{:?}", sized.short);
                prop_assert!((sized.cost - cost).abs() < 1e-6 * cost, "{} against {}", sized.cost, cost);
            }
            None => prop_assert!(sized.short.is_some()),
        }
    }

    #[test]
    fn every_head_is_joined_and_no_leg_crosses_what_may_not_be_dug(
        spots in prop::collection::vec((1.0..29.0f64, 1.0..29.0f64), 2..14),
        house in (4.0..20.0f64, 4.0..20.0f64),
    ) {
        let house = dry("b1", DryKind::Building, rect(house.0, house.1, 6.0, 5.0));
        let drive = dry("d1", DryKind::Paving, rect(30.5, -5.0, 3.0, 45.0));
        let things = vec![lawn("a1", rect(0.0, 0.0, 30.0, 30.0)), house, drive];
        let ground = Ground::of(&bare(things.clone()));
        let mut spots: Vec<(f64, f64)> = spots.into_iter().filter(|p| ground.free(at(p.0, p.1))).collect();
        spots.push((36.0, 12.0));
        let job = site(things, &spots);
        let routed = routes(&job, Scope::All);
        prop_assert_eq!(&routed.faults, &vec![]);
        prop_assert_eq!(&routes(&job, Scope::All), &routed, "the same plan, the same proposal");
        let job = job.apply(&routed.edit.unwrap()).unwrap().0;
        for leg in &job.piping.legs {
            for w in job.way_of(leg).unwrap().windows(2) {
                let (barred, on) = ground.length_on(w[0], w[1], Cover::Barred);
                prop_assert!(barred < 0.07, "{} runs {barred} m under {on:?}", leg.id);
                let paved = ground.length_on(w[0], w[1], Cover::Paved).0;
                prop_assert!(paved < 0.07 || leg.sleeve.is_some());
            }
        }
        // Every head hangs on the lateral: its own joint is in the zone's network.
        let model = crate::zone::zone_model(&crate::zone::inputs_of(&job, &job.valves[0]).unwrap());
        let reached = crate::zone::Pipework::lateral(&job, &job.valves[0]);
        for h in &job.groups[0].drawn {
            prop_assert!(reached.joints.iter().any(|j| j.id == h.id), "{} hangs on nothing", h.id);
        }
        prop_assert_eq!(model.heads.len(), job.groups[0].drawn.len());
        let work = earthwork(&job, &ground);
        let mut points: Vec<Point> = job.groups[0].drawn.iter().map(|h| h.at).collect();
        points.push(job.connection_point("s1").unwrap());
        prop_assert!(least_trench(&points) <= work.length().m() + 1e-6);
    }
}

#[test]
fn drawn_pipe_is_what_the_zone_is_solved_on() {
    // Two heads in a row: 20 m of 1 in to the first, 10 m of 3/4 in on.
    let mut plan = site(vec![], &[(20.0, 0.0), (30.0, 0.0)]).plan().clone();
    plan.site.objects.push(mark("x1", PlaceKind::ValveBox, 0.0, 0.0));
    plan.valves[0].valve_box = Some("x1".into());
    let lateral = LegOf::Lateral("v1".into());
    let make = |id: &str, from: &str, to: &str, pipe: &str| {
        crate::plan::PipeLeg::straight(id, lateral.clone(), from, to, pipe.parse().expect("a pipe"))
    };
    plan.piping.legs =
        vec![make("p1", "v1", "h1", "class-200 1in"), make("p2", "h1", "h2", "class-200 3/4in")];
    let straight = zone_of(&Job::new(plan.clone()), &plan.valves[0]).expect("solves");
    near(straight.legs.iter().map(|l| l.flow.lpm()).fold(0.0, f64::max), straight.flow.lpm(), 1e-6);
    // A detour of 30 m in the first leg costs its friction.
    plan.piping.legs[0].bends = vec![at(0.0, 15.0), at(20.0, 15.0)];
    let detour = zone_of(&Job::new(plan.clone()), &plan.valves[0]).expect("solves");
    let q = detour.flow.lpm() / 60_000.0;
    let kpa = |m: f64| {
        9.80665 * 10.67 * m * 1.1 * q.powf(1.852)
            / (150f64.powf(1.852) * Length::from_in(1.189).m().powf(4.8704))
    };
    near(detour.legs[0].drop.kpa(), kpa(50.0), 1e-6);
    assert!(detour.lowest().nozzle < straight.lowest().nozzle);
    // The box moves, and the pipe with it.
    let moved = Job::new(plan).apply(&Edit::put(mark("x1", PlaceKind::ValveBox, 5.0, 0.0))).expect("moves").0;
    let way = moved.way_of(&moved.piping.legs[0]).expect("a way");
    assert_eq!(way[0], at(5.0, 0.0));
}

#[test]
fn a_branched_lateral_costs_no_more_than_a_chain() {
    // Ten sprays in two rows, the valve to one side.
    let spots: Vec<(f64, f64)> =
        (0..10).map(|i| (6.0 + 3.6 * f64::from(i % 5), 4.0 + 3.6 * f64::from(i / 5))).collect();
    let mut plan = site(vec![lawn("a1", rect(5.0, 3.0, 20.0, 8.0))], &spots).plan().clone();
    plan.site.objects.push(mark("x1", PlaceKind::ValveBox, 13.0, 1.0));
    plan.valves[0].valve_box = Some("x1".into());
    let job = Job::new(plan);
    let (branched, chain) = branch_against_chain(&job, &Ground::of(&job), &job.valves[0]).expect("both");
    assert!(branched.cost <= chain.cost && branched.last >= chain.last, "{branched:?} {chain:?}");
    assert!(branched.keeps);
}

#[test]
fn wire_by_hand() {
    // 120 m of main to one box with two valves: strands 2 x (120 + slack) + common + 2 spares.
    let mut plan = site(vec![], &[(120.0, 5.0)]).plan().clone();
    plan.site.objects.push(mark("c1", PlaceKind::Controller, 0.0, 0.0));
    plan.site.objects.push(mark("x1", PlaceKind::ValveBox, 120.0, 0.0));
    plan.valves[0].valve_box = Some("x1".into());
    plan.valves.push(Valve { valve_box: Some("x1".into()), ..Valve::new("v2", "Two", "s1") });
    let pipe = "class-200 1in".parse().expect("a pipe");
    plan.piping.legs = vec![crate::plan::PipeLeg::straight("p1", LegOf::Main("s1".into()), "s1", "x1", pipe)];
    let job = Job::new(plan);
    let more = wire(&job, 2).expect("a controller");
    let wire = wire(&job, 0).expect("a controller");
    // Two strands for later run to the furthest box, with 24 in of slack.
    let kept = (wire.furthest.m() + 0.6096) * 2.0;
    assert!((more.strands.m() - wire.strands.m() - kept).abs() < 1e-9);
    assert_eq!((wire.valves, wire.spares, wire.gauge), (2, 2, Some(18)));
    near(wire.strands.m(), 5.0 * (120.0 + 0.6096), 0.01);
    // 2 · 0.0064 · 393.7 ft · 0.3 A = 1.51 V
    near(wire.drop_volts, 1.512, 0.005);
}

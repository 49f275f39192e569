use super::*;
use crate::catalogue::{Catalogue, Kind};
use crate::job::Job;
use crate::plan::{DrawnHead, HeadGroup, Plan};
use crate::site::tests::{lawn, rect};
use crate::site::{DryKind, Form, KeepDry, ObjectKind, Point, Shape, SiteObject};
use crate::units::{Flow, Length, Speed};
use proptest::prelude::*;

const FT: f64 = 0.3048;

fn head(x: f64, y: f64, facing: f64, arc: f64, reach: f64) -> Throw {
    Throw {
        at: Point::new(x, y),
        facing,
        reach,
        pattern: Pattern::Sector(arc),
        profile: Profile::Falling,
        hollow: 0.0,
        fog: 0.0,
        streaks: [0.0; 4],
        flow: Flow::from_lpm(10.0),
    }
}

fn sum(t: &Throw, grid: &Grid, drift: Option<Drift>) -> f64 {
    let mut out = Vec::new();
    t.shares(grid, drift, &mut out);
    out.iter().map(|s| f64::from(s.1)).sum()
}

/// A square lawn of 10 m, and plain paving beside it to the right.
fn plan() -> Plan {
    let mut plan = Plan::new("t", crate::units::UnitSystem::Metric);
    plan.site.objects.push(lawn("a1", rect(0.0, 0.0, 10.0, 10.0)));
    plan.site.objects.push(SiteObject {
        id: "p1".into(),
        name: "Drive".into(),
        what: ObjectKind::Dry(KeepDry {
            kind: DryKind::Paving,
            height: None,
            form: Form::Region(rect(10.0, 0.0, 6.0, 10.0)),
        }),
    });
    plan
}

#[test]
fn a_heads_water_is_its_flow_whatever_its_arc() {
    let plan = plan();
    for arc in [45.0, 90.0, 180.0, 270.0, 360.0] {
        // Wholly on the lawn: the volume on the grid is the flow.
        let c = coverage(&plan, "a1", &[head(5.0, 5.0, 30.0, arc, 4.5)], None).unwrap();
        let on_grid: f64 = c.rate.iter().map(|r| f64::from(*r)).sum::<f64>() * c.grid.cell_m2() / 60.0;
        assert!((on_grid - 10.0).abs() < 1e-3 && (c.landed.lpm() - 10.0).abs() < 1e-3, "{arc}: {on_grid}");
        assert!(c.spills.is_empty(), "{:?}", c.spills);
    }
}

#[test]
fn four_quarter_heads_in_a_square_sum_as_computed_by_hand() {
    // Head to head with linear profiles: at a corner the water of its own head alone, 1; at the
    // middle of an edge 1/2 + 1/2 = 1; in the middle 4 (1 - 1/sqrt 2) = 1.1716. One head's rate at
    // its foot is 3 q / (pi R^2 / 4) = 3 * 10 / 78.54 L/min on a m2 = 22.92 mm/h.
    let plan = plan();
    let heads = [
        head(0.0, 0.0, 45.0, 90.0, 10.0),
        head(10.0, 0.0, 135.0, 90.0, 10.0),
        head(10.0, 10.0, 225.0, 90.0, 10.0),
        head(0.0, 10.0, 315.0, 90.0, 10.0),
    ];
    let c = coverage(&plan, "a1", &heads, None).unwrap();
    let at = |x: f64, y: f64| f64::from(c.rate[c.grid.at(Point::new(x, y)).unwrap()]) / 22.918;
    assert!((at(5.0, 5.0) - 1.1716).abs() < 0.03, "{}", at(5.0, 5.0));
    assert!(
        (at(5.0, 0.1) - 1.0).abs() < 0.03 && (at(0.1, 0.1) - 1.0).abs() < 0.04,
        "{} {}",
        at(5.0, 0.1),
        at(0.1, 0.1)
    );
    // What the edges of the streams wet beyond the square: 7.5 cm by 10 m, twice for each head.
    assert!(c.overspray() < 0.03 && c.on_dry() < 0.01, "{} {}", c.overspray(), c.on_dry());
    // At a quarter along the diagonal from a corner, (2.5, 2.5): 1 - 0.3536 + 2 (1 - 0.7906) = 1.0652.
    assert!((at(2.5, 2.5) - 1.0652).abs() < 0.03, "{}", at(2.5, 2.5));
    let u = c.uniformity.unwrap();
    assert!(u.du > 0.9 && u.cu > 0.93 && u.sc < 1.1, "{u:?}");
}

#[test]
fn catch_data_give_the_textbook_figures() {
    // Sixteen cans hold 158 in all: mean 9.875. The lowest four are 4, 6, 7, 7: mean 6.
    let cans: Vec<f32> =
        vec![10.0, 4.0, 13.0, 9.0, 14.0, 7.0, 10.0, 11.0, 6.0, 12.0, 10.0, 8.0, 7.0, 13.0, 10.0, 14.0];
    assert!((cans.iter().sum::<f32>() - 158.0).abs() < 1e-6, "the cans are as written");
    let (low, mean) = lower_quarter(&cans).unwrap();
    assert!((low - 6.0).abs() < 1e-9 && (mean - 9.875).abs() < 1e-6);
    let deviation: f64 = [
        0.125, 5.875, 3.125, 0.875, 4.125, 2.875, 0.125, 1.125, 3.875, 2.125, 0.125, 1.875, 2.875, 3.125,
        0.125, 4.125,
    ]
    .iter()
    .sum::<f64>()
        / 16.0;
    assert!((christiansen(&cans).unwrap() - (1.0 - deviation / 9.875)).abs() < 1e-6);
    // 20 x 20 cells of 1 with a dry square of 4 x 4 at 0.5: the window is sqrt(0.05 * 400) = 4.5 -> 4
    // cells wide and finds it: mean (384 + 8) / 400 = 0.98; SC 1.96.
    let grid = Grid { origin: Point::default(), cell: 1.0, cols: 20, rows: 20 };
    let rate: Vec<f32> = (0..400)
        .map(|i| if (8..12).contains(&(i % 20)) && (3..7).contains(&(i / 20)) { 0.5 } else { 1.0 })
        .collect();
    let u = uniformity(&grid, &[true; 400], &rate).unwrap();
    assert!((u.sc - 1.96).abs() < 1e-6 && (u.mean - 0.98).abs() < 1e-6, "{u:?}");
    // The lowest quarter, 100 cells: 16 at 0.5 and 84 at 1: 0.92.
    assert!((u.du - 0.92 / 0.98).abs() < 1e-6);
    assert_eq!(uniformity(&grid, &[false; 400], &rate), None);
    assert_eq!(lower_quarter(&[]), None);
    assert_eq!(uniformity(&grid, &[true; 400], &[0.0; 400]), None, "no water, no figures");
}

#[test]
fn water_thins_out_as_its_profile_says_on_every_cell_of_its_sector() {
    // Written out cell by cell, apart from the program: a half circle of 3 m to the right, starved by a fifth.
    let grid = Grid::over(Point::new(-4.0, -4.0), Point::new(4.0, 4.0), 0.1);
    for (profile, water) in [
        (Profile::Falling, (|s: f64| 1.0 - s) as fn(f64) -> f64),
        (Profile::Shouldered, |s| if s < 0.6 { 1.0 } else { (1.0 - s) / 0.4 }),
        (Profile::Even, |_| 1.0),
    ] {
        let throw = Throw { profile, hollow: 0.2, ..head(0.013, 0.021, 0.0, 180.0, 3.0) };
        let mut out = Vec::new();
        throw.shares(&grid, None, &mut out);
        let mut wanted = vec![0.0; grid.len()];
        for (cell, wanted) in wanted.iter_mut().enumerate() {
            let d = grid.centre(cell) - throw.at;
            let share = d.norm() / 3.0;
            // A stream wets a hand's breadth behind the line that it is set to.
            if share <= 1.0 && d.x >= -0.075 {
                *wanted = water(share) * (0.8 + 0.4 * share);
            }
        }
        let all: f64 = wanted.iter().sum();
        let mut got = vec![0.0; grid.len()];
        out.iter().for_each(|(cell, share)| got[*cell as usize] = f64::from(*share));
        for (cell, (got, wanted)) in got.iter().zip(&wanted).enumerate() {
            assert!((got - wanted / all).abs() < 1e-6, "{profile:?} {cell}: {got} {}", wanted / all);
        }
    }
}

#[test]
fn a_rotor_is_even_to_sixty_percent_of_its_throw() {
    assert_eq!(
        [0.0, 0.6, 0.8, 1.0, 1.01].map(|s| (Profile::Shouldered.at(s) * 1000.0).round()),
        [1000.0, 1000.0, 500.0, 0.0, 0.0]
    );
    assert_eq!(Profile::of(Kind::RotorMid), Profile::Shouldered);
    assert_eq!(Profile::of(Kind::RotatorShort), Profile::Falling);
}

#[test]
fn water_off_the_area_is_told_by_what_it_lands_on() {
    // A full circle on the middle of the right edge: half lands on the lawn, half on the drive; the
    // drive is 6 m wide and the throw 4 m.
    let c = coverage(&plan(), "a1", &[head(10.0, 5.0, 0.0, 360.0, 4.0)], None).unwrap();
    assert!((c.on_dry() - 0.5).abs() < 0.02, "{}", c.on_dry());
    assert_eq!((c.spills.len(), c.spills[0].name.as_str(), c.spills[0].dry), (1, "Drive", true));
    // An island of paving drawn on top of the lawn is not watered ground.
    let mut plan = plan();
    plan.site.objects.push(SiteObject {
        id: "p2".into(),
        name: "Pad".into(),
        what: ObjectKind::Dry(KeepDry {
            kind: DryKind::Paving,
            height: None,
            form: Form::Region(rect(4.0, 4.0, 2.0, 2.0)),
        }),
    });
    let c = coverage(&plan, "a1", &[head(5.0, 5.0, 0.0, 360.0, 3.0)], None).unwrap();
    assert!((c.area_m2() - 96.0).abs() < 1.0, "{}", c.area_m2());
    assert!(c.spills[0].thing.as_deref() == Some("p2") && c.on_dry() > 0.3, "{:?}", c.spills);
}

#[test]
fn wind_carries_the_water_to_leeward_and_loses_none() {
    let still = head(5.0, 5.0, 0.0, 360.0, 4.0);
    let grid = Grid::over(Point::new(-3.0, -3.0), Point::new(13.0, 13.0), 0.1);
    let drift = Drift::new(Speed::from_fps(14.667), 0.0).unwrap();
    let mut out = Vec::new();
    still.shares(&grid, Some(drift), &mut out);
    let total: f64 = out.iter().map(|s| f64::from(s.1)).sum();
    let mean_x: f64 = out.iter().map(|s| f64::from(s.1) * grid.centre(s.0 as usize).x).sum::<f64>();
    // 10 mph is 4.47 m/s: 12.1 % of the flown distance, whose mean under a falling profile is R / 2.
    assert!((total - 1.0).abs() < 1e-4 && (mean_x - 5.0 - 0.1207 * 2.0).abs() < 0.02, "{total} {mean_x}");
    assert_eq!(Drift::new(Speed::ZERO, 0.0), None);
}

#[test]
fn heads_of_an_area_throw_at_the_pressure_they_get() {
    let mut plan = plan();
    let head = DrawnHead {
        id: "h1".into(),
        at: Point::new(5.0, 5.0),
        arc: 360,
        facing: 0.0,
        radius: None,
        valve: None,
        locked: false,
    };
    plan.groups.push(HeadGroup {
        area: Some("a1".into()),
        drawn: vec![head.clone()],
        ..HeadGroup::new("g1", "Lawn", "spray-12")
    });
    let c = Catalogue::builtin();
    let job = Job::of(&plan);
    let assessment = crate::assess::assess(&job);
    let found = sources(&job, &assessment.solved_heads(), "a1");
    assert_eq!((found.len(), found[0].solved), (1, None));
    assert!((found[0].throw().reach - 12.0 * 0.3048).abs() < 1e-9, "on no valve: at nominal");
    // At 15 psi of 30: (1/2)^0.3 of the throw; below the band of 20 by a quarter: half a doughnut.
    let (nozzle, kind) = (c.nozzle("spray-12").unwrap(), c.class(Kind::Spray));
    let low = Throw::of(nozzle, kind, &head, crate::units::Pressure::from_psi(15.0), Flow::from_gpm(1.69));
    assert!((low.reach / (12.0 * 0.3048) - 0.5f64.powf(0.3)).abs() < 1e-9 && (low.hollow - 0.5).abs() < 1e-9);
    // An end strip reaches 15 ft ahead, 2 ft to each side; turned down to 12 ft, 1.6 ft.
    let strip = Throw::of(
        c.nozzle("strip-end").unwrap(),
        kind,
        &DrawnHead { radius: Some(Length::from_ft(12.0)), ..head },
        kind.nominal,
        Flow::from_gpm(0.61),
    );
    let Pattern::Strip { back, reach, half } = strip.pattern else { panic!("a strip") };
    assert!(back == 0.0 && (reach / 0.3048 - 12.0).abs() < 1e-9 && (half / 0.3048 - 1.6).abs() < 1e-9);
}

#[test]
fn cells_are_fine_on_narrow_ground_and_bounded_on_large() {
    let ft = 0.3048;
    assert!((cell_for(&rect(0.0, 0.0, 40.0 * ft, 60.0 * ft)) - ft).abs() < 1e-9);
    assert!(cell_for(&rect(0.0, 0.0, 4.0 * ft, 30.0 * ft)) < 0.5 * ft);
    let park = rect(0.0, 0.0, 400.0, 400.0);
    assert!(park.area_m2() / cell_for(&park).powi(2) <= 120_001.0);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// Whatever a head looks like, its shares sum to one: nothing is lost or made.
    #[test]
    fn volume_is_conserved(
        x in 0.0..10.0f64,
        y in 0.0..10.0f64,
        facing in 0.0..360.0f64,
        arc in 20.0..=360.0f64,
        reach in 0.2..9.0f64,
        hollow in 0.0..1.0f64,
        wind in 0.0..8.0f64,
        toward in 0.0..360.0f64,
        cell in 0.1..0.5f64,
        shape in 0..3usize,
    ) {
        let mut t = head(x, y, facing, arc, reach);
        t.hollow = hollow;
        t.profile = [Profile::Falling, Profile::Shouldered, Profile::Even][shape];
        let reached = Point::new(reach, reach);
        let grid = Grid::over(Point::new(-4.0, -4.0) - reached, Point::new(14.0, 14.0) + reached, cell);
        prop_assert!((sum(&t, &grid, Drift::new(Speed::from_mps(wind), toward)) - 1.0).abs() < 1e-3);
        t.pattern = Pattern::Strip { back: 0.3, reach, half: reach / 4.0 };
        prop_assert!((sum(&t, &grid, None) - 1.0).abs() < 1e-3);
    }

    /// On any area what lands on it and what is spilt together are the flow.
    #[test]
    fn the_area_and_the_rest_together_get_the_flow(
        heads in proptest::collection::vec((-2.0..12.0f64, -2.0..12.0f64, 0.0..360.0f64, 40.0..360.0f64, 1.0..6.0f64), 1..8),
    ) {
        let throws: Vec<Throw> = heads.iter().map(|h| head(h.0, h.1, h.2, h.3, h.4)).collect();
        let c = coverage(&plan(), "a1", &throws, None).unwrap();
        let spilt: f64 = c.spills.iter().map(|s| s.flow.lpm()).sum();
        prop_assert!((c.landed.lpm() + spilt - c.flow.lpm()).abs() < 0.02 * c.flow.lpm().max(1.0));
        prop_assert!((0.0..=1.0).contains(&c.unreached));
    }
}

#[test]
fn fills_are_even_odd_and_stop_at_the_grid() {
    let grid = Grid::over(Point::new(0.0, 0.0), Point::new(4.0, 4.0), 1.0);
    let mut cells = Vec::new();
    let hole = Shape { holes: vec![rect(1.0, 1.0, 2.0, 2.0).outline], ..rect(-5.0, -5.0, 20.0, 20.0) };
    grid.fill(&hole.rings().map(|r| r.flat(0.1)).collect::<Vec<_>>(), |run| cells.extend(run));
    assert_eq!(cells, vec![0, 1, 2, 3, 4, 7, 8, 11, 12, 13, 14, 15]);
    assert_eq!((grid.at(Point::new(4.0, 1.0)), grid.at(Point::new(3.9, 1.0))), (None, Some(7)));
}

/// Nozzles for quarters, halves and full circles.
type Set = [&'static str; 3];
const SPRAYS: Set = ["spray-12"; 3];
const ROTATORS: Set = ["rotator-20"; 3];
const ROTORS: Set = ["rotor-1.5", "rotor-3", "rotor-6"];

/// A square lawn three spacings wide with heads on a square grid, each arc its nozzle, all at so many
/// times their nominal pressure.
fn sound_lawn(set: Set, spacing: f64, share: f64) -> (Plan, SolvedHeads) {
    let mut plan = Plan::new("Lawn", crate::units::UnitSystem::Us);
    let side = spacing * 3.0 * FT;
    plan.site.objects.push(lawn("a1", rect(0.0, 0.0, side, side)));
    let mut solved = SolvedHeads::new();
    for (nozzle, arc) in set.into_iter().zip([90, 180, 360]) {
        let mut group = HeadGroup::new(&format!("g{arc}"), "Lawn", nozzle);
        group.area = Some("a1".into());
        for (row, col) in (0..4).flat_map(|row| (0..4).map(move |col| (row, col))) {
            let inward = |i: i32| f64::from(i32::from(i == 0) - i32::from(i == 3));
            let (dx, dy) = (inward(col), inward(row));
            let own = match (dx == 0.0, dy == 0.0) {
                (true, true) => 360,
                (false, false) => 90,
                _ => 180,
            };
            if own == arc {
                group.drawn.push(DrawnHead {
                    id: format!("h{row}{col}"),
                    at: Point::new(f64::from(col), f64::from(row)) * (spacing * FT),
                    arc,
                    facing: dy.atan2(dx).to_degrees().rem_euclid(360.0),
                    radius: None,
                    valve: None,
                    locked: false,
                });
            }
        }
        let catalogue = Catalogue::builtin();
        let chosen = catalogue.nozzle(nozzle).unwrap();
        let pressure = catalogue.class(chosen.kind).nominal * share;
        for index in 0..group.drawn.len() as u32 {
            let key = crate::plan::HeadRef { group: group.id.clone(), index };
            solved.insert(key, (pressure, chosen.flow_for_arc(arc) * share.sqrt()));
        }
        plan.groups.push(group);
    }
    (plan, solved)
}

/// Ideal and expected DU of a sound lawn.
fn evenness_of(set: Set, spacing: f64, share: f64) -> (f64, Expected) {
    let (plan, solved) = sound_lawn(set, spacing, share);
    let job = Job::of(&plan);
    let sources = sources(&job, &solved, "a1");
    let throws: Vec<Throw> = sources.iter().map(Source::throw).collect();
    let ideal = coverage(&plan, "a1", &throws, None).unwrap().uniformity.unwrap().du;
    (ideal, expected(&plan, "a1", &sources, REPETITIONS).unwrap())
}

#[test]
fn sound_lawns_come_out_as_audits_find_them_and_rank_as_audits_do() {
    // Sprays 0.50 to 0.65, rotors 0.60 to 0.70, rotators 0.70 to 0.80; a hundredth or two of slack.
    let spray = evenness_of(SPRAYS, 12.0, 1.0);
    let rotator = evenness_of(ROTATORS, 20.0, 1.0);
    let rotor = evenness_of(ROTORS, 36.0, 1.0);
    assert!((0.50..=0.67).contains(&spray.1.du), "{spray:?}");
    assert!((0.60..=0.72).contains(&rotor.1.du), "{rotor:?}");
    assert!((0.70..=0.82).contains(&rotator.1.du), "{rotator:?}");
    assert!(rotator.1.du > rotor.1.du && rotator.1.du > spray.1.du);
    for (ideal, expected) in [spray, rotator, rotor] {
        assert!(expected.du < ideal && expected.spread > 0.0 && expected.spread < 0.1);
    }
    assert_eq!(verdict(spray.0, &spray.1, Kind::Spray), Verdict::Good);
    assert_eq!(verdict(rotator.0, &rotator.1, Kind::Rotator), Verdict::Good);
}

#[test]
fn pressure_off_the_band_always_lowers_what_an_audit_would_find() {
    for (set, spacing) in [(SPRAYS, 12.0), (ROTATORS, 20.0), (ROTORS, 36.0)] {
        let at = |share: f64| evenness_of(set, spacing, share).1.du;
        let nominal = at(1.0);
        // Fog from nominal and a quarter up, the doughnut below the band: less and less.
        let (high, higher) = (at(1.6), at(2.2));
        assert!(high < nominal && higher < nominal, "{set:?}: {nominal} {high} {higher}");
        let (low, lower) = (at(0.55), at(0.4));
        assert!(low < nominal && lower < low, "{set:?}: {nominal} {low} {lower}");
    }
}

#[test]
fn the_same_heads_always_give_the_same_expected_figure() {
    let (a, b) = (evenness_of(SPRAYS, 12.0, 1.0), evenness_of(SPRAYS, 12.0, 1.0));
    assert_eq!(a, b);
    // A layout at fault stays one, whatever the scatter.
    let wide = evenness_of(SPRAYS, 18.0, 1.0);
    assert!(wide.1.du <= wide.0 && wide.0 < FAULT_BELOW, "{wide:?}");
    assert_eq!(verdict(wide.0, &wide.1, Kind::Spray), Verdict::Poor);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(12))]
    #[test]
    fn expected_never_exceeds_ideal_nor_gains_by_pressure(spacing in 8.0..17.0f64, share in 0.35..2.4f64) {
        let (ideal, nominal) = evenness_of(SPRAYS, spacing, 1.0);
        prop_assert!(nominal.du <= ideal + 1e-9);
        let (_, off) = evenness_of(SPRAYS, spacing, share);
        prop_assert!(off.du <= nominal.du + 1e-9, "{} at {share} of nominal, {} at nominal", off.du, nominal.du);
    }
}

use super::*;
use crate::catalogue::Catalogue;
use crate::chain::PartName;
use crate::job::Job;
use crate::network::{LinkState, hazen_williams};
use crate::plan::tests::{group, valve};
use crate::plan::{
    Arrangement, DripRow, HeadGroup, Plan, Reading, ReadingKind, Regulation, Valve, WaterSource,
};
use crate::units::{Flow, Length, Minutes, Pressure, UnitSystem, Volume};
use crate::water::SupplyPoint;

/// One group on one valve at a connection of fixed pressure, without allowance for fittings.
pub(crate) fn plan(psi: f64, nozzle: &str, listed: &[(u16, u32)]) -> Plan {
    let mut plan = Plan::new("Test", UnitSystem::Us);
    plan.rules.fittings = 0.0;
    plan.supplies[0].readings.push(Reading {
        kind: ReadingKind::Static { pressure: Pressure::from_psi(psi) },
        when: String::new(),
        instrument: String::new(),
        tap: String::new(),
    });
    plan.valves.push(valve("v1"));
    let mut g = group("g1", nozzle, listed);
    g.listed.iter_mut().for_each(|l| l.valve = Some("v1".into()));
    plan.groups.push(g);
    plan
}
fn with(plan: &Plan, change: impl FnOnce(&mut HeadGroup, &mut Valve)) -> Plan {
    let mut plan = plan.clone();
    change(&mut plan.groups[0], &mut plan.valves[0]);
    plan
}
fn solved(plan: &Plan) -> ZoneAssessment {
    zone_of(&Job::of(plan), &plan.valves[0]).unwrap()
}
fn near(a: f64, b: f64, tolerance: f64) {
    assert!((a - b).abs() < tolerance, "{a} is not {b}");
}

#[test]
fn a_single_head_is_what_a_hand_computes() {
    let z = solved(&plan(50.0, "spray-12", &[(360, 1)]));
    let (q, p) = (z.heads[0].flow, z.heads[0].nozzle);
    // 1.5 psi in the valve, 20 ft of 0.930 in pipe, an orifice of 2.39 gpm at 30 psi.
    let pipe = hazen_williams(q, Length::from_ft(20.0), Length::from_in(0.930), 150.0);
    near(p.psi(), 50.0 - 1.5 - pipe.psi(), 1e-3);
    near(q.gpm(), 2.39 * (p.psi() / 30.0).sqrt(), 1e-6);
    // 12 ft by 12 ft: 96.25 * q / 144 in/h.
    near(z.rate.mmph() / 25.4, 96.25 * q.gpm() / 144.0, 0.01);
}

#[test]
fn feeding_in_the_middle_or_as_an_h_helps_the_last_head() {
    let chain = plan(45.0, "spray-12", &[(180, 10)]);
    let middle = with(&chain, |g, _| g.arrangement = Arrangement::Middle);
    let h = with(&chain, |g, _| g.arrangement = Arrangement::H);
    let low = |p: &Plan| solved(p).lowest().nozzle.psi();
    assert!(low(&chain) + 1.0 < low(&middle), "{} {}", low(&chain), low(&middle));
    assert!(low(&chain) + 1.0 < low(&h), "{} {}", low(&chain), low(&h));
    // Every arrangement has every head once.
    for p in [&chain, &middle, &h] {
        let mut indices: Vec<u32> = solved(p).heads.iter().map(|h| h.head.index).collect();
        indices.sort_unstable();
        assert_eq!(indices, (0..10).collect::<Vec<_>>());
    }
}

#[test]
fn the_highest_head_is_as_high_as_was_said_however_it_is_piped() {
    for arrangement in [Arrangement::Chain, Arrangement::Middle, Arrangement::H] {
        for n in [1, 2, 5, 8] {
            let p = with(&plan(60.0, "spray-12", &[(180, n)]), |g, _| {
                (g.arrangement, g.rise) = (arrangement, Length::from_ft(8.0))
            });
            let job = Job::of(&p);
            let point = SupplyPoint::of(&job, &p.supplies[0]).unwrap();
            let model = zone_model(&ZoneInputs::of(&job, &p.valves[0], point.into()));
            let heights = model
                .heads
                .iter()
                .map(|h| model.network.nodes[model.network.emitters[h.emitters.start].node].elevation.ft());
            near(heights.fold(f64::MIN, f64::max), 8.0, 1e-9);
        }
    }
}

#[test]
fn the_walk_adds_up_to_the_worst_heads_pressure() {
    let mut p = plan(70.0, "rotator-20", &[(180, 7)]);
    p.groups[0].rise = Length::from_ft(9.0);
    p.supplies[0].readings.push(Reading {
        kind: ReadingKind::Dynamic { flow: Flow::from_gpm(10.0), pressure: Pressure::from_psi(62.0) },
        when: String::new(),
        instrument: String::new(),
        tap: String::new(),
    });
    for regulation in [
        Regulation::None,
        Regulation::Valve { set: Pressure::from_psi(45.0) },
        Regulation::Body { set: Pressure::from_psi(40.0) },
    ] {
        let z = solved(&with(&p, |_, v| v.regulation = regulation));
        let costs: Pressure = z.walk.iter().map(|s| s.cost).sum();
        near((z.walk[0].left - costs).psi(), z.lowest().nozzle.psi(), 0.02);
        near(z.walk.last().unwrap().left.psi(), z.lowest().nozzle.psi(), 0.02);
    }
}

#[test]
fn a_regulator_without_room_is_seen_and_one_with_room_holds() {
    let p = with(&plan(70.0, "spray-12", &[(180, 6)]), |_, v| {
        v.regulation = Regulation::Valve { set: Pressure::from_psi(40.0) }
    });
    let r = solved(&p).regulator.unwrap();
    assert_eq!(r.state, LinkState::Active);
    near(r.room.psi(), 70.0 - 1.5 - 40.0, 0.01);
    let r = solved(&with(&p, |_, v| v.regulation = Regulation::Valve { set: Pressure::from_psi(80.0) }))
        .regulator
        .unwrap();
    assert_eq!(r.state, LinkState::Open);
    assert!(r.room.psi() < 0.0);
}

#[test]
fn bodies_give_every_head_the_same() {
    let z = solved(&with(&plan(70.0, "spray-12", &[(180, 9)]), |_, v| {
        v.regulation = Regulation::Body { set: Pressure::from_psi(30.0) }
    }));
    near(z.spread, 0.0, 1e-9);
    near(z.flow.gpm(), 9.0 * 2.39 / 2.0, 1e-6);
}

#[test]
fn drip_rows_give_the_check_value_1_32_gpm() {
    // 132 emitters of 0.6 gph: 11 rows of 12, rows 16 in apart, emitters 18 in apart: 0.482 in/h.
    let p = with(&plan(40.0, "dripline-0.6", &[(360, 11)]), |g, v| {
        g.row = Some(DripRow { emitters: 12, emitter_spacing: Length::from_in(18.0) });
        g.spacing = Length::from_in(16.0);
        v.model = "valve-drip-3/4in".into();
    });
    let z = solved(&p);
    near(z.flow.gpm(), 1.32, 1e-4);
    near(z.rate.mmph() / 25.4, 0.482, 0.001);
    // Long rows are lumped without losing an emitter.
    let long = solved(&with(&p, |g, _| {
        g.row = Some(DripRow { emitters: 131, emitter_spacing: Length::from_in(12.0) })
    }));
    near(long.nominal_flow.gpm(), 11.0 * 131.0 * 0.6 / 60.0, 1e-4);
}

#[test]
fn zones_without_figures_say_why() {
    let mut p = plan(50.0, "spray-12", &[(180, 3)]);
    p.supplies[0].readings.clear();
    assert!(
        zone_of(&Job::of(&p), &p.valves[0]).unwrap_err().to_string().starts_with("no static pressure yet")
    );
    let mut p = plan(50.0, "spray-12", &[(180, 3)]);
    p.groups.clear();
    assert_eq!(zone_of(&Job::of(&p), &p.valves[0]), Err(ZoneFault::Empty));
}

#[test]
fn four_half_circles_at_twelve_feet_are_to_water_288_square_feet() {
    let z = solved(&plan(50.0, "spray-12", &[(180, 4)]));
    near(z.area.m2() / 0.3048f64.powi(2), 288.0, 1e-6);
    near(z.rate.mmph(), z.flow.lpm() * 60.0 / z.area.m2(), 1e-9);
}

#[test]
fn readings_behind_a_part_leave_it_out_of_the_network() {
    use crate::plan::{ChainItem, ChainPart};
    let mut p = plan(60.0, "spray-12", &[(180, 4)]);
    let part = |id: &str, part| ChainItem { id: id.into(), part };
    p.supplies[0].chain = vec![
        part("c1", ChainPart::Meter { size: "5/8in".into() }),
        part("c2", ChainPart::Device { model: "double-check".into() }),
    ];
    let all = solved(&p).lowest().nozzle.psi();
    p.supplies[0].read_after = Some("c1".into());
    let measured = solved(&p);
    // 15 psi * (Q / 20 gpm)^2 of the meter are in the readings already.
    let q = measured.flow.gpm();
    near(measured.lowest().nozzle.psi() - all, 15.0 * (q / 20.0).powi(2), 0.15);
    assert!(!measured.walk.iter().any(|s| matches!(s.part, WalkPart::Chain(PartName::Meter(_)))));
}

#[test]
fn a_chart_of_the_house_is_solved_with_its_own_exponent() {
    let mut p = plan(60.0, "ours", &[(180, 4)]);
    let row = |psi: f64, gpm: f64| crate::catalogue::ChartRow {
        pressure: Pressure::from_psi(psi),
        arc: 360,
        radius: Length::from_ft(12.0),
        flow: Flow::from_gpm(gpm),
    };
    p.nozzles.push(crate::catalogue::OwnNozzle {
        id: "ours".into(),
        label: "Ours".into(),
        kind: crate::catalogue::Kind::Spray,
        // 2 gpm at 30 psi, twice that at 120: an exponent of 1/2; a little more here.
        chart: vec![row(30.0, 2.0), row(60.0, 2.0 * 2f64.powf(0.6))],
        price: None,
    });
    let z = solved(&p);
    for head in &z.heads {
        near(head.exponent, 0.6, 1e-9);
        near(head.flow.gpm(), (head.nozzle.psi() / 30.0).powf(0.6), 1e-4);
    }
}

#[test]
fn equal_inputs_are_all_that_a_zones_figures_rest_on() {
    let mut p = plan(60.0, "spray-12", &[(180, 4)]);
    let inputs = |p: &Plan| {
        let job = Job::of(p);
        let point = SupplyPoint::of(&job, &p.supplies[0]).unwrap();
        ZoneInputs::of(&job, &p.valves[0], point.into())
    };
    let before = inputs(&p);
    // Names, units, other limits: none of them changes a figure.
    p.name = "Another".into();
    p.units = UnitSystem::Metric;
    p.rules.spread = 0.5;
    p.valves[0].name = "Renamed".into();
    assert_eq!(inputs(&p), before);
    let changed: [fn(&mut Plan); 6] = [
        |p| p.rules.fittings = 0.2,
        |p| p.groups[0].spacing = Length::from_ft(11.0),
        |p| p.groups[0].distance = Length::from_ft(21.0),
        |p| p.valves[0].filter = Some("filter-1in".into()),
        |p| p.supplies[0].gauge_height = Length::from_ft(3.0),
        |p| p.groups[0].listed[0].arc = 90,
    ];
    for change in changed {
        let mut other = p.clone();
        change(&mut other);
        assert_ne!(inputs(&other), before);
        assert_ne!(solved(&other), solved(&p));
    }
}

#[test]
fn throw_falls_with_pressure_and_gains_three_in_a_hundred_at_most() {
    let c = Catalogue::builtin();
    let (spray, kind) = (c.nozzle("spray-15").unwrap(), c.class(crate::catalogue::Kind::Spray));
    let ft = |psi: f64, turned: Option<f64>| {
        spray.throw(kind, Pressure::from_psi(psi), turned.map(Length::from_ft)).unwrap().ft()
    };
    assert!((ft(30.0, None) - 15.0).abs() < 1e-9);
    // (20/30)^0.3 = 0.8855: 13.28 ft.
    assert!((ft(20.0, None) - 13.28).abs() < 0.005, "{}", ft(20.0, None));
    assert!((ft(80.0, None) - 15.45).abs() < 1e-9 && ft(0.0, None) == 0.0);
    assert!((ft(20.0, Some(12.0)) - 12.0 * 0.8855).abs() < 0.005);
}

/// Four stake sprinklers on a tap of 55 psi that fills 5 gal in 25 s, on half-inch tube, 10 ft and then 25 ft apart.
/// Worked by a program of its own (walk back from the last head, Hazen and Williams at C 140, 1.5 psi in the valve,
/// 55 - 55 (q / 12)^1.852 at the tap): 48.0, 36.7, 25.5, 16.8 psi at the last of 1, 2, 3, 4 in half-inch tube, and
/// 48.4, 38.3, 28.4, 20.7 in three-quarter.
#[test]
fn four_stakes_on_a_tap_throw_less_together_than_alone() {
    let mut plan = with(&plan(55.0, "stake-3", &[(360, 4)]), |g, _| {
        (g.pipe, g.feed_pipe) = ("drip-poly 1/2in".parse().unwrap(), None);
        (g.distance, g.spacing) = (Length::from_ft(10.0), Length::from_ft(25.0));
    });
    let bucket =
        ReadingKind::Bucket { volume: Volume::from_gal(5.0), time: Minutes::from_minutes(25.0 / 60.0) };
    plan.supplies[0].water = WaterSource::Tap;
    let reading = plan.supplies[0].readings[0].clone();
    plan.supplies[0].readings.push(Reading { kind: bucket, ..reading });
    let job = Job::of(&plan);
    let known = throws(&job, &plan.valves[0]).unwrap().unwrap();
    assert_eq!(known.now, 0);
    let sizes = known.sizes;
    assert_eq!(sizes.len(), 2, "a half and three quarters are all that poly comes in");
    let half = [(47.98, 32.96), (36.73, 31.19), (25.48, 27.95), (16.78, 24.66)];
    let three_quarters = [(48.36, 32.96), (38.28, 31.58), (28.41, 28.88), (20.66, 26.24)];
    for (on, by_hand) in sizes.iter().zip([half, three_quarters]) {
        for (open, (psi, ft)) in on.open.iter().zip(by_hand) {
            near(open.lowest.psi(), psi, 0.05);
            near(open.shortest.ft(), ft, 0.05);
            assert_eq!(open.works, psi >= 30.0);
        }
        assert_eq!(on.open.len(), 4);
    }
    let most = |share: f64| sizes.iter().map(|s| s.most_at(share)).collect::<Vec<_>>();
    assert_eq!(most(0.9), [2, 2]);
    assert_eq!(most(0.95), [1, 2], "three-quarter tube is what a second one wants then");
    assert_eq!(most(1.3), [0, 0]);
    // Alone they throw all they can; what has no throw has no such table.
    near(sizes[0].open[0].shortest.ft(), 32.0 * 1.03, 0.01);
    let bubblers = with(&plan, |g, _| g.nozzle = "bubbler-0.5".into());
    assert_eq!(throws(&Job::of(&bubblers), &bubblers.valves[0]).unwrap(), None);
    // With the larger one in the job the smaller is looked at all the same.
    let large = with(&plan, |g, _| g.pipe = "drip-poly 3/4in".parse().unwrap());
    let known = throws(&Job::of(&large), &large.valves[0]).unwrap().unwrap();
    assert_eq!((known.sizes, known.now), (sizes, 1));
}

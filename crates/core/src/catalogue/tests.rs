use super::*;
use crate::units::{Flow, Length, Pressure, Speed};

#[test]
fn every_table_reads_and_names_are_unique() {
    let c = Catalogue::builtin();
    for nozzle in &c.nozzles {
        assert!(c.class(nozzle.kind).low < c.class(nozzle.kind).nominal, "{}", nozzle.id);
        assert_eq!(c.nozzles.iter().filter(|n| n.id == nozzle.id).count(), 1, "{}", nozzle.id);
    }
    for pipe in &c.pipes {
        assert_eq!(c.pipe(&pipe.id()), Some(pipe));
        assert_eq!(pipe.id().to_string().parse::<PipeId>().unwrap(), pipe.id());
    }
}

#[test]
fn matched_nozzles_give_a_quarter_for_a_quarter() {
    let n = Catalogue::builtin().nozzle("spray-12").unwrap();
    assert!((n.flow_for_arc(90).gpm() - 2.39 / 4.0).abs() < 1e-9);
    let r = Catalogue::builtin().nozzle("rotor-3").unwrap();
    assert_eq!(r.flow_for_arc(90), r.flow_for_arc(360));
}

#[test]
fn the_service_line_check_value_holds() {
    // 1 in copper type L at 7 ft/s carries 18.0 gpm.
    let pipe = Catalogue::builtin().pipe(&"copper-l 1in".parse().unwrap()).unwrap();
    let v = Speed::in_pipe(Flow::from_gpm(18.0), pipe.inside);
    assert!((v.fps() - 7.0).abs() < 0.01);
}

#[test]
fn pipes_are_named_in_either_order() {
    assert_eq!("1 1/2 in pvc-40".parse::<PipeId>().unwrap().to_string(), "pvc-40 1-1/2in");
    assert_eq!("class-200 3/4in".parse::<PipeId>().unwrap().to_string(), "class-200 3/4in");
    assert!("3/4in".parse::<PipeId>().is_err());
}

#[test]
fn every_class_has_a_band_in_order_and_every_nozzle_a_class() {
    let c = Catalogue::builtin();
    for class in &c.classes {
        let band = class.band();
        assert!(band.least <= band.best && band.best <= band.most, "{:?}", class.kind);
        assert!((0.0..=1.0).contains(&class.exponent), "{:?}", class.kind);
        assert!(class.body.is_none_or(|b| b >= band.least && b <= band.most), "{:?}", class.kind);
    }
    for nozzle in &c.nozzles {
        assert!(nozzle.flow > Flow::ZERO, "{}", nozzle.id);
        assert_eq!(c.class(nozzle.kind).kind, nozzle.kind);
        assert_eq!(c.nozzle(&nozzle.id).map(|n| &n.id), Some(&nozzle.id), "one of each id");
    }
}

#[test]
fn pipes_grow_with_their_sizes_and_the_next_one_is_the_next() {
    let c = Catalogue::builtin();
    for pipe in &c.pipes {
        assert_eq!(c.pipe(&pipe.id()).map(Pipe::id), Some(pipe.id()), "{}", pipe.title());
        if let Some(next) = c.next_pipe(&pipe.id()) {
            assert_eq!(next.material, pipe.material);
            assert!(next.inside > pipe.inside);
            let between = c
                .pipes
                .iter()
                .any(|p| p.material == pipe.material && p.inside > pipe.inside && p.inside < next.inside);
            assert!(!between, "a size stands between {} and {}", pipe.title(), next.title());
        }
    }
}

#[test]
fn inside_diameters_are_those_of_the_standards() {
    // ASTM D1785 schedule 40, D2241 class 200 (SDR 21), B88 type L: outside less two walls, inches.
    for (id, outside, wall) in [
        ("pvc-40 1in", 1.315, 0.133),
        ("pvc-40 2in", 2.375, 0.154),
        ("class-200 3/4in", 1.05, 0.060),
        ("class-200 1in", 1.315, 0.063),
        ("class-200 1-1/2in", 1.9, 0.090),
        ("copper-l 3/4in", 0.875, 0.045),
        ("copper-l 1in", 1.125, 0.050),
    ] {
        let inside = Catalogue::builtin().pipe(&id.parse().unwrap()).unwrap().inside.inches();
        assert!((inside - (outside - 2.0 * wall)).abs() < 0.006, "{id}: {inside}");
    }
}

#[test]
fn a_meter_costs_15_psi_at_its_safe_flow_and_goes_with_the_square() {
    for (size, most) in [("5/8in", 20.0), ("3/4in", 30.0), ("1in", 50.0), ("1-1/2in", 100.0), ("2in", 160.0)]
    {
        let loss = |q: f64| Catalogue::builtin().meter(size).unwrap().loss().at(Flow::from_gpm(q)).psi();
        assert!((loss(most) - 15.0).abs() < 1e-6, "{size}");
        assert!((loss(most / 2.0) - 3.75).abs() < 1e-6, "{size}");
    }
}

#[test]
fn a_proportional_nozzle_goes_with_its_arc_and_others_do_not() {
    let c = Catalogue::builtin();
    for nozzle in &c.nozzles {
        let (half, full) = (nozzle.flow_for_arc(180).gpm(), nozzle.flow_for_arc(360).gpm());
        match nozzle.arc_rule {
            ArcRule::Proportional => assert!((half * 2.0 - full).abs() < 1e-9, "{}", nozzle.id),
            ArcRule::Any | ArcRule::Fixed => assert!((half - full).abs() < 1e-9, "{}", nozzle.id),
        }
    }
}

#[test]
fn a_throw_falls_with_the_pressure_and_gains_little_above_nominal() {
    let c = Catalogue::builtin();
    let nozzle = c.nozzle("spray-12").unwrap();
    let class = c.class(nozzle.kind);
    let throw = |psi: f64| nozzle.throw(class, Pressure::from_psi(psi), None).unwrap().ft();
    // (20/30)^0.3 = 0.885 of 12 ft.
    assert!((throw(20.0) - 12.0 * (20.0f64 / 30.0).powf(0.3)).abs() < 1e-6);
    assert!((throw(30.0) - 12.0).abs() < 1e-9);
    assert!((throw(90.0) - 12.0 * 1.03).abs() < 1e-9, "the stream breaks up");
    let turned = nozzle.throw(class, class.nominal, Some(Length::from_ft(9.0))).unwrap();
    assert!((turned.ft() - 9.0).abs() < 1e-9);
    assert_eq!(throw(0.0), 0.0);
}

#[test]
fn valves_and_filters_are_large_enough_and_no_larger() {
    let c = Catalogue::builtin();
    for gpm in [0.3, 2.0, 8.0, 15.0, 24.0, 40.0, 70.0] {
        let flow = Flow::from_gpm(gpm);
        let valve = c.valve_for(flow, false);
        let smaller = c.devices_for(Role::Valve).filter(|d| d.duty.is_none() || d.duty == valve.duty);
        assert!(valve.loss.at(flow).psi() < 5.0 || c.devices_for(Role::Valve).last().unwrap().id == valve.id);
        assert!(smaller.count() > 0);
        let filter = c.filter_for(flow);
        assert!(filter.proposed_to.is_none_or(|most| flow <= most), "{gpm} gpm through {}", filter.id);
    }
    assert_eq!(c.valve_for(Flow::from_gpm(0.5), true).duty, Some(Duty::LowFlow));
    // Under 5 gpm the usual valve may not close.
    assert_eq!(c.valve_for(Flow::from_gpm(2.5), false).duty, Some(Duty::LowFlow));
    assert_eq!(c.valve_for(Flow::from_gpm(6.0), false).duty, Some(Duty::Standard));
}

#[test]
fn every_mounting_has_a_regulator_with_a_flow_band_in_order() {
    let c = Catalogue::builtin();
    for mounting in [Mounting::Connection, Mounting::Valve, Mounting::Inline] {
        let all: Vec<_> = c.regulators_at(mounting).collect();
        assert!(!all.is_empty(), "{mounting:?}");
        for model in all {
            assert!(model.flow_band.0 < model.flow_band.1, "{}", model.id);
            assert_eq!(c.regulator(&model.id).map(|r| &r.id), Some(&model.id));
        }
    }
}

#[test]
fn a_nozzle_of_the_house_takes_the_place_of_none_and_goes_by_its_own_chart() {
    let row = |psi: f64, gpm: f64| ChartRow {
        pressure: Pressure::from_psi(psi),
        arc: 180,
        radius: Length::from_ft(12.0),
        flow: Flow::from_gpm(gpm),
    };
    let own = OwnNozzle {
        id: "own-a".into(),
        label: "Ours".into(),
        kind: Kind::Spray,
        chart: vec![row(20.0, 1.0), row(30.0, 1.0 * 1.5f64.sqrt()), row(40.0, 2.0f64.sqrt())],
        price: None,
    };
    let c = Catalogue::builtin().with(&[own], &["own-a".to_owned()]);
    assert_eq!(c.nozzles.len(), Catalogue::builtin().nozzles.len() + 1);
    let found = c.nozzle("own-a").unwrap();
    assert!(found.favourite);
    // An orifice by its own rows: the root of the pressure.
    assert!((found.exponent_with(c.class(Kind::Spray)) - 0.5).abs() < 1e-6);
    assert!((found.flow_for_arc(180).gpm() - 1.5f64.sqrt()).abs() < 1e-6);
}

#[test]
fn rotators_keep_their_rate_when_turned_down_and_others_keep_their_flow() {
    let c = Catalogue::builtin();
    let ft = Length::from_ft;
    let set = |id: &str, arc: u16, to: Option<f64>| c.nozzle(id).unwrap().flow_set(arc, to.map(ft)).gpm();
    // By hand: 0.81 x 180/360 = 0.405 gpm; at 10 of 14 ft (10/14)^2 = 0.510 of it.
    assert!((set("rotator-14", 180, None) - 0.405).abs() < 1e-9);
    assert!((set("rotator-14", 180, Some(10.0)) - 0.2066).abs() < 1e-4);
    for (id, least) in [("rotator-14", 8.0), ("rotator-20", 13.0), ("rotator-30", 22.0), ("rotator-35", 31.0)]
    {
        // Set head to head at its least throw it still puts down 0.4 in/h: 96.25 q / R^2.
        let inches = 96.25 * set(id, 360, Some(least)) / (least * least);
        assert!((inches - 0.4).abs() < 0.003, "{id}: {inches}");
        let low = c.nozzle(id).unwrap().least_throw().unwrap();
        assert!((low.ft() - least).abs() < 1e-9, "{id}: {}", low.ft());
    }
    // A spray's and a rotor's screw breaks the stream: the flow that is planned for stays.
    assert!((set("spray-12", 360, Some(9.0)) - 2.39).abs() < 1e-9);
    assert!((set("rotor-3", 180, Some(30.0)) - 3.0).abs() < 1e-9);
    assert!((c.nozzle("spray-12").unwrap().least_throw().unwrap().ft() - 9.0).abs() < 1e-9);
    // Never more than full, whatever a file says.
    assert!((set("rotator-14", 360, Some(20.0)) - 0.81).abs() < 1e-9);
}

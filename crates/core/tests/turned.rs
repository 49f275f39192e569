//! Rotators that are turned down, from the nozzle to the minutes: a lawn of 24 by 24 ft with a quarter circle in each
//! corner, worked by hand. Full throw 30 ft, 3.74 gpm all round; a quarter 0.935 gpm. At 24 ft (24/30)² = 0.64 of
//! it: 0.5984 gpm each, 2.394 gpm all four, 96.25 x 2.394 / 576 = 0.400 in/h, as the nozzle is matched for.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

use fenlo_core::assess::assess;
use fenlo_core::job::Job;
use fenlo_core::plan::{Edit, Plan};
use fenlo_core::runtime::{Evennesses, times};
use serde_json::{Value, json};

const FT: f64 = 0.3048;
const GPM: f64 = 3.785_411_784;
const PSI: f64 = 6.894_757_293;

/// The lawn with heads of a nozzle in its corners, turned to a throw in feet, on a valve at so many psi.
fn lawn(nozzle: &str, turned: Option<f64>, psi: f64) -> Plan {
    let side = 24.0 * FT;
    let corners = [(0.0, 0.0, 45.0), (side, 0.0, 135.0), (side, side, 225.0), (0.0, side, 315.0)];
    let head = |(i, (x, y, facing)): (usize, (f64, f64, f64))| {
        let mut head =
            json!({ "id": format!("h{i}"), "at": [x, y], "arc": 90, "facing": facing, "valve": "v1" });
        if let Some(ft) = turned {
            head["radius"] = json!(format!("{ft} ft"));
        }
        head
    };
    let heads: Vec<Value> = corners.into_iter().enumerate().map(head).collect();
    let outline = [[0.0, 0.0], [side, 0.0], [side, side], [0.0, side]];
    let file = json!({
        "format": "fenlo-job/1", "name": "Corner", "units": "us",
        "site": { "things": [{ "id": "a1", "name": "Lawn",
            "what": { "is": "area", "kind": "lawn", "shape": { "outline": outline } } }] },
        "supplies": [{ "id": "s1", "name": "Meter", "readings": [{
            "measured": { "is": "static", "pressure": format!("{psi} psi") },
            "when": "", "instrument": "", "place": "" }] }],
        "groups": [{
            "id": "g1", "name": "Lawn", "plants": "lawn", "nozzle": nozzle, "area": "a1", "lots": [],
            "drawn": heads, "arrangement": "chain", "spacing": "24 ft", "pipe": "class-200 1in",
            "distance": "10 ft", "rise": "0 ft" }],
        "valves": [{ "id": "v1", "name": "Lawn", "supply": "s1", "model": "valve-1in" }],
    });
    serde_json::from_value(file).unwrap()
}

#[test]
fn the_zone_takes_what_is_left_of_the_throw_squared() {
    for (turned, nominal) in
        [(None, 0.935), (Some(27.0), 0.935 * 0.81), (Some(24.0), 0.5984), (Some(22.0), 0.5028)]
    {
        let job = Job::of(&lawn("rotator-30", turned, 60.0));
        let known = assess(&job);
        let zone = known.zones[0].zone.as_ref().unwrap();
        for head in &zone.heads {
            let gpm = head.nominal_flow.lpm() / GPM;
            assert!((gpm - nominal).abs() < 2e-4, "{turned:?}: {gpm} gpm nominal");
            // What it gives at its pressure: by the root of it over 40 psi.
            let by_hand = nominal * (head.nozzle.kpa() / PSI / 40.0).sqrt();
            assert!((head.flow.lpm() / GPM - by_hand).abs() < 1e-3, "{turned:?}: {:?}", head.flow);
        }
        assert!((zone.nominal_flow.lpm() / GPM - 4.0 * nominal).abs() < 1e-3);
    }
}

#[test]
fn its_rate_stays_and_a_sprays_does_not() {
    let inches = |nozzle: &str, turned: Option<f64>, psi: f64| {
        let job = Job::of(&lawn(nozzle, turned, psi));
        let known = assess(&job);
        let zone = known.zones[0].zone.as_ref().unwrap();
        // At nominal pressure, since the zone has more.
        zone.nominal_flow.lpm() / GPM * 96.25 / 576.0
    };
    assert!((inches("rotator-30", Some(24.0), 60.0) - 0.400).abs() < 0.001);
    // Not turned down it puts 0.625 in/h on the same ground: 96.25 x 3.74 / 576.
    assert!((inches("rotator-30", None, 60.0) - 0.625).abs() < 0.001);
    // A rotor of 2 gpm gives 2 gpm wherever its screw stands: 96.25 x 8 / 576.
    assert!((inches("rotor-2", Some(27.0), 60.0) - 1.337).abs() < 0.001);
}

#[test]
fn minutes_go_by_the_rate_that_is_left() {
    let minutes = |turned: Option<f64>| {
        let mut plan = lawn("rotator-30", turned, 60.0);
        plan.rules.peak_et = fenlo_core::units::Length::from_in(1.9);
        let job = Job::of(&plan);
        let known = assess(&job);
        let even = Evennesses::of(&job, &known);
        let week = times(&job, &known, &even, 7, 2026);
        let station = &week.stations[0];
        let zone = known.zones[0].zone.as_ref().unwrap();
        let rate = zone.flow.lpm() / GPM * 96.25 / 576.0;
        // Need over rate, times 1 / (0.4 + 0.6 DU).
        let need = station.need.as_ref().unwrap();
        let by_hand = need.depth.mm() / 25.4 / rate * 60.0 / (0.4 + 0.6 * need.du());
        assert!((station.minutes_week.minutes() - by_hand).abs() < 0.02 * by_hand, "{turned:?}: {by_hand}");
        station.minutes_week.minutes()
    };
    let (full, turned) = (minutes(None), minutes(Some(24.0)));
    assert!(turned > full * 1.3, "{full} min at full throw, {turned} min turned down");
}

#[test]
fn a_job_of_before_opens_though_its_nozzle_does_not_reach_so_near() {
    // 35 ft could be turned down by a quarter, to 26.25 ft; the size goes down to 31.
    let job = Job::of(&lawn("rotator-35", Some(28.0), 60.0));
    assert!(job.faults().is_empty(), "{:?}", job.faults());
    let known = assess(&job);
    let areas = fenlo_core::assess::area_reports(&job, &known.solved_heads());
    let codes: Vec<&str> = areas[0].findings.iter().map(|f| f.code()).collect();
    assert!(codes.contains(&"beyond-adjustment"), "{codes:?}");
    assert!(!Job::of(&lawn("rotator-35", Some(26.0), 60.0)).faults().is_empty());
}

#[test]
fn a_throw_below_the_size_of_the_nozzle_is_refused_at_its_place() {
    // 22 to 30 ft; 13 to 20; 8 to 14.
    for (nozzle, least) in [("rotator-30", 22.0), ("rotator-20", 13.0), ("rotator-14", 8.0)] {
        let job = Job::of(&lawn(nozzle, None, 60.0));
        let turned = |ft: f64| {
            let mut group = job.groups[0].clone();
            group.drawn[0].radius = Some(fenlo_core::units::Length::from_ft(ft));
            job.apply(&Edit::put(group)).map(|_| ()).map_err(|faults| faults.to_string())
        };
        assert_eq!(turned(least), Ok(()), "{nozzle} at {least} ft");
        let said = turned(least - 0.5).unwrap_err();
        assert!(said.contains("radius adjusts from"), "{nozzle}: {said}");
    }
}

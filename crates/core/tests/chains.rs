//! Zones of random rows of heads held against the hand method, head by head: Hazen and Williams in feet, gallons and
//! psi (4.52 Q^1.852 / (C^1.852 d^4.8704) a foot), flow by the root of the pressure. Nothing here shares a formula
//! or a unit with the program.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

use fenlo_core::assess::assess;
use fenlo_core::catalogue::{Catalogue, Nozzle, PipeId};
use fenlo_core::job::Job;
use fenlo_core::plan::Plan;
use fenlo_core::zone::{HeadResult, ZoneAssessment};
use proptest::prelude::*;
use serde_json::json;

/// A row of heads of one nozzle on one valve.
#[derive(Debug, Clone)]
struct Row {
    nozzle: &'static str,
    arc: u16,
    count: u32,
    spacing: f64,
    pipe: &'static str,
    distance: f64,
    rise: f64,
    psi: f64,
}

fn row() -> impl Strategy<Value = Row> {
    let nozzles = prop::sample::select(vec![
        ("spray-10", 180),
        ("spray-12", 90),
        ("spray-15", 180),
        ("rotator-20", 180),
        ("rotator-30", 90),
        ("rotor-short-1.5", 120),
        ("rotor-2", 180),
        ("rotor-3", 90),
    ]);
    let pipes = prop::sample::select(vec!["class-200 3/4in", "class-200 1in", "pvc-40 3/4in", "pvc-40 1in"]);
    (nozzles, 1..9u32, 8.0..38.0f64, pipes, 5.0..80.0f64, -4.0..6.0f64, 45.0..75.0f64).prop_map(
        |((nozzle, arc), count, spacing, pipe, distance, rise, psi)| Row {
            nozzle,
            arc,
            count,
            spacing,
            pipe,
            distance,
            rise,
            psi,
        },
    )
}

fn plan(row: &Row, units: &str) -> Plan {
    let file = json!({
        "format": "fenlo-job/1", "name": "Row", "units": units,
        "supplies": [{ "id": "s1", "name": "Meter", "readings": [{
            "measured": { "is": "static", "pressure": format!("{} psi", row.psi) },
            "when": "", "instrument": "", "place": "" }] }],
        "groups": [{
            "id": "g1", "name": "Row", "plants": "lawn", "nozzle": row.nozzle, "arrangement": "chain",
            "lots": [{ "arc": row.arc, "count": row.count, "valve": "v1" }],
            "spacing": format!("{} ft", row.spacing), "pipe": row.pipe,
            "distance": format!("{} ft", row.distance), "rise": format!("{} ft", row.rise) }],
        "valves": [{ "id": "v1", "name": "v1", "supply": "s1", "model": "valve-1in" }],
    });
    serde_json::from_value(file).unwrap()
}

fn solved(plan: &Plan) -> std::sync::Arc<ZoneAssessment> {
    let known = assess(&Job::of(plan));
    known.zones[0].zone.as_ref().unwrap().clone()
}

/// psi lost in so many feet of a pipe at so many gpm, with a tenth for fittings.
fn friction(pipe: &str, feet: f64, gpm: f64) -> f64 {
    let id: PipeId = pipe.parse().unwrap();
    let pipe = Catalogue::builtin().pipe(&id).unwrap();
    let inches = pipe.inside.m() / 0.0254;
    1.10 * 4.52 * gpm.powf(1.852) / (pipe.c.powf(1.852) * inches.powf(4.8704)) * feet
}

fn gpm(nozzle: &Nozzle, arc: u16, share: f64) -> f64 {
    let matched = nozzle.id.starts_with("spray") || nozzle.id.starts_with("rotator");
    let full = nozzle.flow.lpm() / 3.785_411_784;
    full * if matched { f64::from(arc) / 360.0 } else { 1.0 } * share.sqrt()
}

fn psi(head: &HeadResult) -> f64 {
    head.nozzle.kpa() / 6.894_757_293
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(160))]

    #[test]
    fn each_leg_of_a_row_loses_what_friction_charts_say(row in row()) {
        let zone = solved(&plan(&row, "us"));
        let nozzle = Catalogue::builtin().nozzle(row.nozzle).unwrap();
        let nominal = Catalogue::builtin().class(nozzle.kind).nominal.kpa() / 6.894_757_293;
        prop_assert_eq!(zone.heads.len(), row.count as usize);
        let flows: Vec<f64> = zone.heads.iter().map(|h| h.flow.lpm() / 3.785_411_784).collect();
        for (head, flow) in zone.heads.iter().zip(&flows) {
            let wanted = gpm(nozzle, row.arc, psi(head) / nominal);
            prop_assert!((flow - wanted).abs() < 0.002, "{flow} and {wanted} gpm");
        }
        let all: f64 = flows.iter().sum();
        prop_assert!((all - zone.flow.lpm() / 3.785_411_784).abs() < 1e-6);
        // From head to head the pipe carries what stands behind it. The row climbs as evenly as its legs.
        let climb = 0.4335 * row.rise / f64::from(row.count);
        for i in 1..zone.heads.len() {
            let behind: f64 = flows[i..].iter().sum();
            let lost = psi(&zone.heads[i - 1]) - psi(&zone.heads[i]);
            let wanted = friction(row.pipe, row.spacing, behind) + climb;
            prop_assert!((lost - wanted).abs() < 0.005 + 0.002 * wanted, "leg {i}: {lost} and {wanted} psi");
        }
        // Everything but the valve is accounted for up to the static pressure.
        let first = psi(&zone.heads[0]) + friction(row.pipe, row.distance, all) + climb;
        let valve = row.psi - first;
        prop_assert!(valve > 0.3 && valve < 9.0, "the valve takes {valve} psi of {}", row.psi);
    }

    #[test]
    fn a_row_gets_the_same_water_whatever_units_its_people_read(row in row()) {
        let (us, metric) = (solved(&plan(&row, "us")), solved(&plan(&row, "metric")));
        prop_assert!((us.flow.lpm() - metric.flow.lpm()).abs() < 1e-9);
        prop_assert!((us.lowest().nozzle.kpa() - metric.lowest().nozzle.kpa()).abs() < 1e-9);
    }

    #[test]
    fn a_longer_or_thinner_row_never_gets_more_at_its_end(row in row(), more in 1.05..2.0f64) {
        let last = |r: &Row| solved(&plan(r, "us")).lowest().nozzle.kpa();
        let now = last(&row);
        let longer = Row { spacing: row.spacing * more, distance: row.distance * more, ..row.clone() };
        prop_assert!(last(&longer) <= now + 1e-9);
        let higher = Row { rise: row.rise + more, ..row.clone() };
        prop_assert!(last(&higher) < now);
        let thinner = Row { pipe: "pvc-40 1/2in", ..row.clone() };
        prop_assert!(last(&thinner) <= now + 1e-9);
        let stronger = Row { psi: row.psi + 5.0, ..row };
        prop_assert!(last(&stronger) > now);
    }
}

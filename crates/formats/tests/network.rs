//! The reference cases, solved through the file format, against an independent solver's answers.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

use fenlo_core::network::solve;
use fenlo_formats::{read_network, write_network, write_result};
use serde_json::Value;

/// The reference flows are printed with five decimals.
const HALF_A_DIGIT: f64 = 5e-6;

fn cases() -> Vec<(String, Vec<u8>, Value)> {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/network");
    let mut names: Vec<String> = std::fs::read_dir(folder)
        .unwrap()
        .map(|f| f.unwrap().file_name().into_string().unwrap())
        .filter(|n| !n.ends_with(".expected.json"))
        .collect();
    names.sort();
    names
        .into_iter()
        .map(|name| {
            let read = |n: &str| std::fs::read(format!("{folder}/{n}")).unwrap();
            let expected = serde_json::from_slice(&read(&name.replace(".json", ".expected.json"))).unwrap();
            (name.clone(), read(&name), expected)
        })
        .collect()
}

#[test]
fn pressures_agree_within_0_05_kpa_and_flows_within_0_05_percent() {
    let cases = cases();
    assert_eq!(cases.len(), 7);
    for (name, bytes, expected) in cases {
        let network = read_network(&bytes).unwrap();
        let mut written = Vec::new();
        write_result(&network, &solve(&network).unwrap(), &mut written).unwrap();
        let result: Value = serde_json::from_slice(&written).unwrap();
        for (id, node) in expected["nodes"].as_object().unwrap() {
            let (want, got) = (
                node["pressure_kpa"].as_f64().unwrap(),
                result["nodes"][id]["pressure_kpa"].as_f64().unwrap(),
            );
            assert!((want - got).abs() < 0.05, "{name} node {id}: {got} kPa, wanted {want}");
        }
        for part in ["links", "emitters", "sources"] {
            for (id, want) in expected[part].as_object().unwrap() {
                let (flow, got) =
                    (want["flow_lpm"].as_f64().unwrap(), result[part][id]["flow_lpm"].as_f64().unwrap());
                assert!(
                    (flow - got).abs() <= 0.0005 * flow.abs() + HALF_A_DIGIT,
                    "{name} {part} {id}: {got} L/min, wanted {flow}"
                );
                if let Some(state) = want.get("state") {
                    assert_eq!(&result[part][id]["state"], state, "{name} {id}");
                }
            }
        }
    }
}

#[test]
fn a_network_that_is_written_reads_back_the_same() {
    for (name, bytes, _) in cases() {
        let network = read_network(&bytes).unwrap();
        let again = read_network(write_network(&network).as_bytes()).unwrap();
        // Millimetres to metres and back costs the last bit of a diameter: compare what it solves to.
        let (a, b) = (solve(&network).unwrap(), solve(&again).unwrap());
        for (p, q) in a.pressures.iter().zip(&b.pressures) {
            assert!((p.kpa() - q.kpa()).abs() < 1e-6, "{name}");
        }
    }
}

#[test]
fn every_fault_is_named_with_its_path() {
    let text = r#"{ "format": "fenlo-network/1",
      "sources": [ {"node":"S","static_kpa":0} ],
      "nodes": [ {"id":"S"}, {"id":"A"}, {"id":"A"} ],
      "links": [ {"id":"p","kind":"pipe","from":"S","to":"B","length_m":-1,"diameter_mm":0,"roughness_c":150,"set_kpa":3},
                 {"id":"p","kind":"tap","from":"S","to":"S"},
                 {"id":"d","kind":"device","from":"S","to":"A","curve":[{"flow_lpm":5,"drop_kpa":2},{"flow_lpm":5,"drop_kpa":1}]} ],
      "emitters": [ {"id":"E","node":"A","kind":"orifice","flow_lpm":1} ] }"#;
    insta::assert_snapshot!(read_network(text.as_bytes()).unwrap_err().to_string());
}

#[test]
fn broken_files_are_refused_with_a_path_and_without_a_panic() {
    let said = |t: &str| read_network(t.as_bytes()).unwrap_err().to_string();
    insta::assert_snapshot!(
        [
            said(""),
            said("[1,2"),
            said(r#"{"format":"fenlo-network/1","sources":[],"nodes":[],"links":[]}"#),
            said(
                r#"{"format":"fenlo-network/1","sources":[{"node":"S","static_psi":60}],
                "nodes":[{"id":"S"}],"links":[]}"#
            ),
            said(
                r#"{"format":"fenlo-network/1","sources":[{"node":"S","static_kpa":NaN}],"nodes":[],
                "links":[]}"#
            ),
            said(&"[".repeat(100_000)),
        ]
        .join("\n")
    );
}

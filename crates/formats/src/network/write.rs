use super::{
    DropPoint, EmitterFile, FORMAT, LinkFile, NetworkFile, NodeFile, PressurePoint, RESULT_FORMAT, SourceFile,
};
use fenlo_core::network::{Emission, LinkKind, LinkState, Loss, Network, Solution, SourceLaw};
use serde_json::{Map, Value, json};

/// Writes a network so that [`super::read_network`] reads the same back.
pub fn write_network(network: &Network) -> String {
    let id = |i: usize| network.nodes[i].id.clone();
    let file = NetworkFile {
        format: FORMAT.to_owned(),
        name: network.name.clone(),
        sources: network
            .sources
            .iter()
            .map(|s| match &s.law {
                SourceLaw::Measured {
                    static_pressure,
                    drop,
                    at_flow,
                    exponent,
                } => SourceFile {
                    node: id(s.node),
                    static_kpa: Some(static_pressure.kpa()),
                    drop_kpa: Some(drop.kpa()),
                    at_flow_lpm: Some(at_flow.lpm()),
                    exponent: Some(*exponent),
                    curve: None,
                },
                SourceLaw::Curve(curve) => SourceFile {
                    node: id(s.node),
                    static_kpa: None,
                    drop_kpa: None,
                    at_flow_lpm: None,
                    exponent: None,
                    curve: Some(
                        curve
                            .points()
                            .map(|(flow_lpm, pressure_kpa)| PressurePoint {
                                flow_lpm,
                                pressure_kpa,
                            })
                            .collect(),
                    ),
                },
            })
            .collect(),
        nodes: network
            .nodes
            .iter()
            .map(|n| NodeFile {
                id: n.id.clone(),
                elevation_m: n.elevation.m(),
            })
            .collect(),
        links: network
            .links
            .iter()
            .map(|l| {
                let base = LinkFile {
                    id: l.id.clone(),
                    from: id(l.from),
                    to: id(l.to),
                    ..LinkFile::default()
                };
                match &l.kind {
                    LinkKind::Pipe {
                        length,
                        inside,
                        roughness_c,
                        minor_loss_k,
                        open,
                    } => LinkFile {
                        kind: "pipe".into(),
                        length_m: Some(length.m()),
                        diameter_mm: Some(inside.mm()),
                        roughness_c: Some(*roughness_c),
                        minor_loss_k: Some(*minor_loss_k),
                        open: Some(*open),
                        ..base
                    },
                    LinkKind::Device(loss) => with_loss(
                        LinkFile {
                            kind: "device".into(),
                            ..base
                        },
                        loss,
                    ),
                    LinkKind::Regulator { set, loss } => with_loss(
                        LinkFile {
                            kind: "regulator".into(),
                            set_kpa: Some(set.kpa()),
                            ..base
                        },
                        loss,
                    ),
                }
            })
            .collect(),
        emitters: network
            .emitters
            .iter()
            .map(|e| {
                let base = EmitterFile {
                    id: e.id.clone(),
                    node: id(e.node),
                    ..EmitterFile::default()
                };
                match e.emission {
                    Emission::Orifice {
                        flow,
                        at_pressure,
                        exponent,
                        regulator,
                    } => EmitterFile {
                        kind: "orifice".into(),
                        flow_lpm: flow.lpm(),
                        at_pressure_kpa: Some(at_pressure.kpa()),
                        exponent: Some(exponent),
                        regulator_kpa: regulator.map(|r| r.kpa()),
                        ..base
                    },
                    Emission::Compensating { flow, min } => EmitterFile {
                        kind: "compensating".into(),
                        flow_lpm: flow.lpm(),
                        min_kpa: Some(min.kpa()),
                        ..base
                    },
                }
            })
            .collect(),
    };
    serde_json::to_string_pretty(&file).expect("a network is plain data") + "\n"
}

fn with_loss(base: LinkFile, loss: &Loss) -> LinkFile {
    match loss {
        Loss::Power {
            fixed,
            drop,
            at_flow,
            exponent,
        } => LinkFile {
            fixed_drop_kpa: Some(fixed.kpa()),
            drop_kpa: Some(drop.kpa()),
            at_flow_lpm: Some(at_flow.lpm()),
            exponent: Some(*exponent),
            ..base
        },
        Loss::Curve(curve) => LinkFile {
            curve: Some(
                curve
                    .points()
                    .map(|(flow_lpm, drop_kpa)| DropPoint { flow_lpm, drop_kpa })
                    .collect(),
            ),
            ..base
        },
    }
}

/// Writes the answer (`fenlo-network-result/1`).
pub fn write_result(network: &Network, solution: &Solution) -> String {
    let nodes: Map<String, Value> = network
        .nodes
        .iter()
        .enumerate()
        .map(|(i, n)| {
            let mut value = json!({ "pressure_kpa": solution.pressures[i].kpa() });
            if solution.cut_off[i] {
                value["cut_off"] = json!(true);
            }
            (n.id.clone(), value)
        })
        .collect();
    let links: Map<String, Value> = network
        .links
        .iter()
        .zip(&solution.links)
        .map(|(l, r)| {
            let mut value = json!({ "flow_lpm": r.flow.lpm(), "drop_kpa": r.drop.kpa() });
            if let Some(v) = r.velocity {
                value["velocity_mps"] = json!(v.mps());
            }
            let says = !matches!(l.kind, LinkKind::Pipe { .. }) || r.state == LinkState::Closed;
            if says {
                value["state"] = json!(r.state);
            }
            (l.id.clone(), value)
        })
        .collect();
    let emitters: Map<String, Value> = network
        .emitters
        .iter()
        .zip(&solution.emitters)
        .map(|(e, r)| {
            (
                e.id.clone(),
                json!({ "flow_lpm": r.flow.lpm(), "inlet_kpa": r.inlet.kpa(), "nozzle_kpa": r.nozzle.kpa() }),
            )
        })
        .collect();
    let mut sources = Map::new();
    for (s, q) in network.sources.iter().zip(&solution.sources) {
        let node = network.nodes[s.node].id.clone();
        let flow = sources
            .get(&node)
            .and_then(|v: &Value| v["flow_lpm"].as_f64())
            .unwrap_or(0.0)
            + q.lpm();
        sources.insert(node, json!({ "flow_lpm": flow }));
    }
    let result = json!({
        "format": RESULT_FORMAT,
        "name": network.name,
        "converged": true,
        "iterations": solution.iterations,
        "nodes": nodes,
        "links": links,
        "emitters": emitters,
        "sources": sources,
        "residual": { "mass_lpm": solution.residual.mass.lpm(), "energy_kpa": solution.residual.energy.kpa() },
    });
    serde_json::to_string_pretty(&result).expect("a result is plain data") + "\n"
}

use super::{
    DropPoint, EmitterFile, FORMAT, LinkFile, Name, NetworkFile, NodeFile, PressurePoint, SourceFile,
};
use fenlo_core::network::{Emission, LinkKind, Loss, Network, SourceLaw};

/// Writes a network so that [`super::read_network`] reads the same back.
pub fn write_network(network: &Network) -> String {
    let id = |i: usize| Name::from(&network.nodes[i].id);
    let file = NetworkFile {
        format: FORMAT.into(),
        name: (&network.name).into(),
        sources: network
            .sources
            .iter()
            .map(|s| match &s.law {
                SourceLaw::Measured { static_pressure, drop, at_flow, exponent } => SourceFile {
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
                            .map(|(flow_lpm, pressure_kpa)| PressurePoint { flow_lpm, pressure_kpa })
                            .collect(),
                    ),
                },
            })
            .collect(),
        nodes: network
            .nodes
            .iter()
            .map(|n| NodeFile { id: (&n.id).into(), elevation_m: n.elevation.m() })
            .collect(),
        links: network
            .links
            .iter()
            .map(|l| {
                let base =
                    LinkFile { id: (&l.id).into(), from: id(l.from), to: id(l.to), ..LinkFile::default() };
                match &l.kind {
                    LinkKind::Pipe { length, inside, roughness_c, minor_loss_k, open } => LinkFile {
                        kind: "pipe".into(),
                        length_m: Some(length.m()),
                        diameter_mm: Some(inside.mm()),
                        roughness_c: Some(*roughness_c),
                        minor_loss_k: Some(*minor_loss_k),
                        open: Some(*open),
                        ..base
                    },
                    LinkKind::Device(loss) => with_loss(LinkFile { kind: "device".into(), ..base }, loss),
                    LinkKind::Regulator { set, loss } => with_loss(
                        LinkFile { kind: "regulator".into(), set_kpa: Some(set.kpa()), ..base },
                        loss,
                    ),
                }
            })
            .collect(),
        emitters: network
            .emitters
            .iter()
            .map(|e| {
                let base = EmitterFile { id: (&e.id).into(), node: id(e.node), ..EmitterFile::default() };
                match e.emission {
                    Emission::Orifice { flow, at_pressure, exponent, regulator } => EmitterFile {
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

fn with_loss<'a>(base: LinkFile<'a>, loss: &Loss) -> LinkFile<'a> {
    match loss {
        Loss::Power { fixed, drop, at_flow, exponent } => LinkFile {
            fixed_drop_kpa: Some(fixed.kpa()),
            drop_kpa: Some(drop.kpa()),
            at_flow_lpm: Some(at_flow.lpm()),
            exponent: Some(*exponent),
            ..base
        },
        Loss::Curve(curve) => LinkFile {
            curve: Some(
                curve.points().map(|(flow_lpm, drop_kpa)| DropPoint { flow_lpm, drop_kpa }).collect(),
            ),
            ..base
        },
    }
}

use fenlo_core::network::{EmitterResult, LinkKind, LinkResult, LinkState, Network, Solution};
use serde::{Serialize, Serializer};
use std::collections::BTreeMap;
use std::io::{self, Write};

const FORMAT: &str = "fenlo-network-result/1";

/// Writes the answer (`fenlo-network-result/1`): parts in the order of the network, one after the other, so
/// that the answer of a large network never stands in memory as text.
///
/// # Errors
/// What the writer says.
pub fn write_result(network: &Network, solution: &Solution, out: &mut impl Write) -> io::Result<()> {
    let nodes = network.nodes.iter().enumerate().map(|(i, node)| {
        let answer = NodeAnswer { pressure_kpa: solution.pressures[i].kpa(), cut_off: solution.cut_off[i] };
        (&node.id, answer)
    });
    let links = network.links.iter().zip(&solution.links);
    let emitters = network.emitters.iter().zip(&solution.emitters);
    let mut sources: BTreeMap<&str, SourceAnswer> = BTreeMap::new();
    for (source, flow) in network.sources.iter().zip(&solution.sources) {
        let node = network.nodes[source.node].id.as_str();
        sources.entry(node).or_default().flow_lpm += flow.lpm();
    }
    let result = ResultFile {
        format: FORMAT,
        name: &network.name,
        converged: true,
        iterations: solution.iterations,
        nodes: ByName(nodes),
        links: ByName(links.map(|(l, r)| (&l.id, LinkAnswer::of(&l.kind, r)))),
        emitters: ByName(emitters.map(|(e, r)| (&e.id, EmitterAnswer::of(r)))),
        sources,
        residual: ResidualAnswer {
            mass_lpm: solution.residual.mass.lpm(),
            energy_kpa: solution.residual.energy.kpa(),
        },
    };
    serde_json::to_writer_pretty(&mut *out, &result)?;
    out.write_all(b"\n")
}

/// An object made while it is written.
struct ByName<I>(I);

impl<K: Serialize, V: Serialize, I: Iterator<Item = (K, V)> + Clone> Serialize for ByName<I> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_map(self.0.clone())
    }
}

#[derive(Serialize)]
struct ResultFile<'a, N: Serialize, L: Serialize, E: Serialize> {
    format: &'a str,
    name: &'a str,
    converged: bool,
    iterations: usize,
    nodes: N,
    links: L,
    emitters: E,
    sources: BTreeMap<&'a str, SourceAnswer>,
    residual: ResidualAnswer,
}

#[derive(Serialize)]
struct NodeAnswer {
    pressure_kpa: f64,
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    cut_off: bool,
}

#[derive(Serialize)]
struct LinkAnswer {
    flow_lpm: f64,
    drop_kpa: f64,
    #[serde(skip_serializing_if = "Option::is_none")]
    velocity_mps: Option<f64>,
    /// Of devices and regulators; of a pipe only where it is shut.
    #[serde(skip_serializing_if = "Option::is_none")]
    state: Option<LinkState>,
}

impl LinkAnswer {
    fn of(kind: &LinkKind, answer: &LinkResult) -> Self {
        let says = !matches!(kind, LinkKind::Pipe { .. }) || answer.state == LinkState::Closed;
        Self {
            flow_lpm: answer.flow.lpm(),
            drop_kpa: answer.drop.kpa(),
            velocity_mps: answer.velocity.map(|v| v.mps()),
            state: says.then_some(answer.state),
        }
    }
}

#[derive(Serialize)]
struct EmitterAnswer {
    flow_lpm: f64,
    inlet_kpa: f64,
    nozzle_kpa: f64,
}

impl EmitterAnswer {
    fn of(answer: &EmitterResult) -> Self {
        Self { flow_lpm: answer.flow.lpm(), inlet_kpa: answer.inlet.kpa(), nozzle_kpa: answer.nozzle.kpa() }
    }
}

#[derive(Default, Serialize)]
struct SourceAnswer {
    flow_lpm: f64,
}

#[derive(Serialize)]
struct ResidualAnswer {
    mass_lpm: f64,
    energy_kpa: f64,
}

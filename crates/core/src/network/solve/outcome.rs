//! What is left over, and what came out.

use super::*;

impl Solver<'_> {
    /// Mass at every node and energy along every part, from the present heads and flows; with the
    /// name of the part that is furthest off.
    pub(super) fn residual(&self) -> (Residual, String) {
        let net = self.network;
        let mut balance = vec![0.0; net.nodes.len()];
        let (mut energy, mut worst) = (0.0f64, usize::MAX);
        for (l, link) in net.links.iter().enumerate() {
            let part = &self.links[l];
            balance[link.from] -= part.q;
            balance[link.to] += part.q;
            if part.state == LinkState::Open && (part.q >= -REVERSAL || matches!(part.law, Law::Pipe { .. }))
            {
                let off = (self.head[link.from] - self.head[link.to] - part.h).abs();
                if off > energy || !off.is_finite() {
                    (energy, worst) = (off, l);
                }
            }
        }
        for (source, (reservoir, part)) in net.sources.iter().zip(&self.sources) {
            balance[source.node] += part.q;
            if part.state == LinkState::Open {
                energy = energy.max((reservoir - self.head[source.node] - part.h).abs());
            }
        }
        let mut mass = 0.0f64;
        for (emitter, drip) in net.emitters.iter().zip(&self.emitters) {
            balance[emitter.node] -= drip.q;
            if self.live[emitter.node] {
                let p = self.head[emitter.node] - self.height[emitter.node];
                mass = mass.max((drip.q - drip.law.flow_at(p)).abs());
            }
        }
        for (node, off) in balance.iter().enumerate() {
            if self.live[node] {
                mass = mass.max(off.abs());
            }
        }
        let name = net
            .links
            .get(worst)
            .map_or_else(|| "a source or a head".to_owned(), |l| format!("‘{}’", l.id));
        (
            Residual {
                mass: Flow::from_lpm(mass),
                energy: Pressure::from_kpa(energy),
            },
            name,
        )
    }

    pub(super) fn report(self, iterations: usize, residual: Residual) -> Solution {
        let net = self.network;
        let pressures: Vec<Pressure> = (0..net.nodes.len())
            .map(|i| {
                if self.live[i] {
                    Pressure::from_kpa(self.head[i] - self.height[i])
                } else {
                    Pressure::ZERO
                }
            })
            .collect();
        let links = net
            .links
            .iter()
            .zip(&self.links)
            .map(|(link, part)| {
                let flow = Flow::from_lpm(if part.state == LinkState::Closed {
                    0.0
                } else {
                    part.q
                });
                let velocity = match link.kind {
                    LinkKind::Pipe { inside, .. } => Some(Speed::in_pipe(flow, inside)),
                    _ => None,
                };
                let drop = if part.state == LinkState::Closed {
                    0.0
                } else {
                    self.head[link.from] - self.head[link.to]
                };
                LinkResult {
                    flow,
                    drop: Pressure::from_kpa(drop),
                    state: part.state,
                    velocity,
                }
            })
            .collect();
        let emitters = net
            .emitters
            .iter()
            .zip(&self.emitters)
            .map(|(e, drip)| EmitterResult {
                flow: Flow::from_lpm(drip.q),
                inlet: pressures[e.node],
                nozzle: e.emission.nozzle_pressure(pressures[e.node]),
            })
            .collect();
        let sources = self
            .sources
            .iter()
            .map(|(_, part)| Flow::from_lpm(part.q))
            .collect();
        Solution {
            iterations,
            pressures,
            cut_off: self.live.iter().map(|l| !l).collect(),
            links,
            emitters,
            sources,
            residual,
        }
    }
}

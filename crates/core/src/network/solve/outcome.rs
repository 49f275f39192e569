//! What came out, in the network's own order.

use super::*;

impl Solver<'_> {
    /// What is left over of energy and mass.
    pub(super) fn residual(&self) -> Residual {
        Residual {
            mass: Flow::from_lpm(self.left_over.mass),
            energy: Pressure::from_kpa(self.left_over.energy.off),
        }
    }

    /// What to call the link that is furthest off.
    pub(super) fn name_of_worst(&self) -> String {
        let link = self.order.links.get(self.left_over.energy.worst);
        let link = link.map(|l| &self.network.links[*l as usize]);
        link.map_or_else(|| "a source or a head".to_owned(), |l| format!("‘{}’", l.id))
    }

    pub(super) fn report(self, iterations: usize, residual: Residual) -> Solution {
        let net = self.network;
        let place = &self.order.place;
        let pressure = |p: &u32| match *p {
            NOWHERE => Pressure::ZERO,
            p => Pressure::from_kpa(self.head[p as usize] - self.height[p as usize]),
        };
        let pressures: Vec<Pressure> = place.iter().map(pressure).collect();
        // What has no place is shut or dry.
        let shut = |link: &Link| LinkResult {
            flow: Flow::ZERO,
            drop: Pressure::ZERO,
            state: LinkState::Closed,
            velocity: matches!(link.kind, LinkKind::Pipe { .. }).then_some(Speed::ZERO),
        };
        let mut links: Vec<LinkResult> = net.links.iter().map(shut).collect();
        for (l, part) in self.links.iter().enumerate() {
            if part.state == LinkState::Closed {
                continue;
            }
            let at = self.order.links[l] as usize;
            let flow = Flow::from_lpm(part.q);
            let (from, to) = self.ends[l];
            links[at] = LinkResult {
                flow,
                drop: Pressure::from_kpa(self.head[from as usize] - self.head[to as usize]),
                state: part.state,
                velocity: match net.links[at].kind {
                    LinkKind::Pipe { inside, .. } => Some(Speed::in_pipe(flow, inside)),
                    _ => None,
                },
            };
        }
        let mut flows = vec![0.0; net.emitters.len()];
        for e in &self.emitters {
            flows[e.at as usize] = e.q;
        }
        let emitters = net
            .emitters
            .iter()
            .zip(flows)
            .map(|(e, q)| EmitterResult {
                flow: Flow::from_lpm(q),
                inlet: pressures[e.node],
                nozzle: e.emission.nozzle_pressure(pressures[e.node]),
            })
            .collect();
        let sources = self
            .sources
            .iter()
            .map(|(_, _, part)| Flow::from_lpm(part.q))
            .collect();
        Solution {
            iterations,
            pressures,
            cut_off: place.iter().map(|p| *p == NOWHERE).collect(),
            links,
            emitters,
            sources,
            residual,
        }
    }
}

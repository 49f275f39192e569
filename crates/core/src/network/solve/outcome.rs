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
        let link = self.order.links().nth(self.left_over.energy.worst);
        let link = link.map(|l| &self.network.links[l as usize]);
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
        // What is closed, or has no place: shut or dry.
        let shut = |link: &Link| LinkResult {
            flow: Flow::ZERO,
            drop: Pressure::ZERO,
            state: LinkState::Closed,
            velocity: matches!(link.kind, LinkKind::Pipe { .. }).then_some(Speed::ZERO),
        };
        let mut placed = vec![NOWHERE; net.links.len()];
        for (place, link) in self.order.links().enumerate() {
            placed[link as usize] = place as u32;
        }
        let told = |(at, place): (usize, &u32)| match self.links.get(*place as usize) {
            Some(part) if part.state != LinkState::Closed => {
                let (from, to) = self.ends(*place as usize);
                LinkResult {
                    flow: Flow::from_lpm(part.q),
                    drop: Pressure::from_kpa(self.head[from] - self.head[to]),
                    state: part.state,
                    velocity: match part.law {
                        Law::Pipe { speed, .. } => Some(Speed::from_mps(part.q * speed)),
                        _ => None,
                    },
                }
            }
            _ => shut(&net.links[at]),
        };
        let links = placed.iter().enumerate().map(told).collect();
        let of = self.given.of.iter();
        let mut emitters: Vec<EmitterResult> = of
            .map(|(law, node)| {
                let inlet = pressures[*node as usize];
                EmitterResult {
                    flow: Flow::ZERO,
                    inlet,
                    nozzle: inlet.min(self.given.laws[*law as usize].held),
                }
            })
            .collect();
        for e in &self.emitters {
            emitters[e.at as usize].flow = Flow::from_lpm(e.q);
        }
        let sources = self.sources.iter().map(|(_, _, part)| Flow::from_lpm(part.q)).collect();
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

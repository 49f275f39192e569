//! Regulators and check valves between Newton steps: which are open, active or closed.

use super::*;

impl Solver<'_> {
    /// Marks the outlets that active regulators hold; of two on one outlet the higher set point.
    pub(super) fn pin_outlets(&mut self) {
        self.pinned.fill(None);
        for (l, link) in self.network.links.iter().enumerate() {
            if self.links[l].state != LinkState::Active {
                continue;
            }
            match self.pinned[link.to] {
                Some(other) if self.set[other] >= self.set[l] => {
                    self.links[l].switch(LinkState::Closed);
                    self.links[l].q = 0.0;
                }
                other => {
                    if let Some(other) = other {
                        self.links[other].switch(LinkState::Closed);
                        self.links[other].q = 0.0;
                    }
                    self.pinned[link.to] = Some(l);
                }
            }
        }
    }

    pub(super) fn pin_head(&self, node: usize) -> f64 {
        self.pinned[node]
            .and_then(|l| self.set[l])
            .unwrap_or(self.head[node])
    }

    /// An active regulator passes just what leaves its outlet.
    pub(super) fn pass_through_regulators(&mut self) {
        let net = self.network;
        if self.pinned.iter().all(Option::is_none) {
            return;
        }
        // Outlets furthest downstream may feed other regulators' inlets: repeat until it settles.
        for _ in 0..8 {
            let mut leaving = vec![0.0; net.nodes.len()];
            for (l, link) in net.links.iter().enumerate() {
                leaving[link.from] += self.links[l].q;
                if self.pinned[link.to] != Some(l) {
                    leaving[link.to] -= self.links[l].q;
                }
            }
            for (emitter, drip) in net.emitters.iter().zip(&self.emitters) {
                leaving[emitter.node] += drip.q;
            }
            for (source, (_, part)) in net.sources.iter().zip(&self.sources) {
                leaving[source.node] -= part.q;
            }
            let mut changed = false;
            for (node, pin) in self.pinned.iter().enumerate() {
                if let Some(l) = *pin {
                    changed |= (self.links[l].q - leaving[node]).abs() > 1e-12;
                    self.links[l].q = leaving[node];
                }
            }
            if !changed {
                break;
            }
        }
        for pin in self.pinned.iter().flatten() {
            self.links[*pin].refresh();
        }
    }

    /// Opens and closes what must; true if anything changed.
    pub(super) fn switch_states(&mut self, iteration: usize, settled: bool) -> bool {
        if iteration < 2 {
            return true;
        }
        let net = self.network;
        let mut switched = false;
        for (l, link) in net.links.iter().enumerate() {
            let shut =
                matches!(link.kind, LinkKind::Pipe { .. }) || !(self.live[link.from] && self.live[link.to]);
            if shut {
                continue;
            }
            let drop = self.head[link.from] - self.head[link.to];
            let set = self.set[l];
            let outlet = self.head[link.to];
            let inlet = self.head[link.from];
            let part = &mut self.links[l];
            let to = match part.state {
                state if !settled && state != LinkState::Open => state,
                _ if settled && part.q < -REVERSAL => LinkState::Closed,
                LinkState::Open if set.is_some_and(|set| outlet > set + 1e-6) => LinkState::Active,
                LinkState::Active if set.is_some_and(|set| inlet - part.h < set - 1e-6) => LinkState::Open,
                LinkState::Closed
                    if drop > part.law.at(0.0).0 + 1e-6 && set.is_none_or(|set| outlet < set - 1e-6) =>
                {
                    LinkState::Open
                }
                state => state,
            };
            if part.switch(to) {
                switched = true;
                if to == LinkState::Closed {
                    part.q = 0.0;
                }
                part.refresh();
            }
        }
        for (source, (reservoir, part)) in net.sources.iter().zip(&mut self.sources) {
            let to = match part.state {
                _ if part.q < -REVERSAL => LinkState::Closed,
                LinkState::Closed if *reservoir > self.head[source.node] + 1e-6 => LinkState::Open,
                state => state,
            };
            if part.switch(to) {
                switched = true;
                part.q = 0.0;
                part.refresh();
            }
        }
        switched
    }
}

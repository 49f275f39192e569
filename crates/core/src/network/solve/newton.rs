//! One step of Newton's method on heads and flows.

use super::*;

impl Solver<'_> {
    /// One Newton step: heads from the linearised system, then flows from the heads.
    pub(super) fn step(&mut self, relax: f64) -> Result<(), SolveError> {
        let net = self.network;
        let mut system = self.system.take().ok_or(SolveError::NoSource)?;
        system.clear();
        self.pin_outlets();
        for (l, link) in net.links.iter().enumerate() {
            let part = &self.links[l];
            if !(self.live[link.from] && self.live[link.to]) || link.from == link.to {
                continue;
            }
            if part.state == LinkState::Active {
                if self.pinned[link.from].is_none() {
                    system.rhs[self.unknown[link.from]] -= part.q;
                }
                continue;
            }
            let (c, y) = part.line();
            let (a, b) = (self.unknown[link.from], self.unknown[link.to]);
            let (pin_a, pin_b) = (self.pinned[link.from], self.pinned[link.to]);
            if pin_a.is_none() {
                system.add_diagonal(a, y);
                system.rhs[a] -= c;
            }
            if pin_b.is_none() {
                system.add_diagonal(b, y);
                system.rhs[b] += c;
            }
            match (pin_a, pin_b) {
                (None, None) => system.add_slot(self.slots[l], -y),
                (Some(_), None) => system.rhs[b] += y * self.pin_head(link.from),
                (None, Some(_)) => system.rhs[a] += y * self.pin_head(link.to),
                (Some(_), Some(_)) => {}
            }
        }
        for (source, (reservoir, part)) in net.sources.iter().zip(&self.sources) {
            if self.pinned[source.node].is_none() {
                let (c, y) = part.line();
                let i = self.unknown[source.node];
                system.add_diagonal(i, y);
                system.rhs[i] += c + y * reservoir;
            }
        }
        for (emitter, drip) in net.emitters.iter().zip(&self.emitters) {
            if !self.live[emitter.node] || self.pinned[emitter.node].is_some() {
                continue;
            }
            let i = self.unknown[emitter.node];
            match drip.mode {
                EmitterMode::Off => {}
                EmitterMode::Low => {
                    let (_, slope) = drip.law.straight();
                    system.add_diagonal(i, slope);
                    system.rhs[i] += slope * self.height[emitter.node];
                }
                EmitterMode::Limited => system.rhs[i] -= drip.q,
                EmitterMode::Power => {
                    let (h, slope) = drip.law.at(drip.q);
                    system.add_diagonal(i, 1.0 / slope);
                    system.rhs[i] -= drip.q - (h + self.height[emitter.node]) / slope;
                }
            }
        }
        for (node, pin) in self.pinned.iter().enumerate() {
            if pin.is_some() {
                let i = self.unknown[node];
                system.add_diagonal(i, 1.0);
                system.rhs[i] = self.pin_head(node);
            }
        }
        let solved = system.solve();
        if solved.is_ok() {
            for (node, &i) in self.unknown.iter().enumerate().filter(|(_, i)| **i != usize::MAX) {
                self.head[node] = system.rhs[i];
            }
        }
        self.system = Some(system);
        if solved.is_err() {
            // Closed parts may have left a piece hanging on nothing: open them and look again.
            let mut opened = false;
            for (part, link) in self.links.iter_mut().zip(&net.links) {
                let shut = matches!(link.kind, LinkKind::Pipe { open: false, .. });
                if part.state == LinkState::Closed && !shut && self.live[link.from] && self.live[link.to] {
                    opened |= part.switch(LinkState::Open);
                }
            }
            for (_, part) in &mut self.sources {
                opened |= part.state == LinkState::Closed && part.switch(LinkState::Open);
            }
            return if opened {
                Ok(())
            } else {
                Err(SolveError::BadFigure {
                    part: "the network".into(),
                })
            };
        }
        self.update_flows(relax);
        Ok(())
    }

    pub(super) fn update_flows(&mut self, relax: f64) {
        let net = self.network;
        let mix = |old: f64, new: f64| old + relax * (new - old);
        for (l, link) in net.links.iter().enumerate() {
            let drop = self.head[link.from] - self.head[link.to];
            let part = &mut self.links[l];
            match part.state {
                LinkState::Closed => part.q = 0.0,
                LinkState::Active => {}
                LinkState::Open => {
                    let (c, y) = part.line();
                    part.q = mix(part.q, c + y * drop);
                    part.refresh();
                }
            }
        }
        for (source, (reservoir, part)) in net.sources.iter().zip(&mut self.sources) {
            let drop = *reservoir - self.head[source.node];
            if part.state == LinkState::Closed {
                part.q = 0.0;
            } else {
                let (c, y) = part.line();
                part.q = mix(part.q, c + y * drop);
                part.refresh();
            }
        }
        for (emitter, drip) in net.emitters.iter().zip(&mut self.emitters) {
            if !self.live[emitter.node] {
                continue;
            }
            let p = self.head[emitter.node] - self.height[emitter.node];
            if drip.mode == EmitterMode::Power {
                let (h, slope) = drip.law.at(drip.q);
                let new = mix(drip.q, drip.q + (p - h) / slope);
                // Never shut at one blow: on a starved network all heads would shut together,
                // see the full pressure, open together, and so on for ever.
                drip.q = new.max(drip.q * 0.1);
            }
            let (least, slope) = drip.law.straight();
            drip.mode = if p >= drip.law.limit {
                drip.q = drip.law.most;
                EmitterMode::Limited
            } else if drip.mode == EmitterMode::Power && drip.q >= least {
                EmitterMode::Power
            } else if p <= 0.0 {
                drip.q = 0.0;
                EmitterMode::Off
            } else if p * slope <= least || drip.mode == EmitterMode::Off {
                drip.q = p * slope;
                EmitterMode::Low
            } else {
                drip.q = drip.law.flow_at(p);
                EmitterMode::Power
            };
        }
        self.pass_through_regulators();
    }
}

//! Flows to start from: exact on a tree, everyday velocities round loops.

use super::*;

impl Solver<'_> {
    /// Starts every link with what hangs behind it when each emitter gives its nominal flow, along
    /// a spanning tree from the sources: exact but for the pressure where the network is a tree.
    pub(super) fn start_flows(&mut self) {
        let net = self.network;
        let mut around: Vec<Vec<usize>> = vec![Vec::new(); net.nodes.len()];
        for (i, l) in net
            .links
            .iter()
            .enumerate()
            .filter(|(i, _)| self.links[*i].state != LinkState::Closed)
        {
            around[l.from].push(i);
            around[l.to].push(i);
        }
        let mut wanted = vec![0.0; net.nodes.len()];
        for (e, d) in net.emitters.iter().zip(&self.emitters) {
            wanted[e.node] += d.q;
        }
        let mut seen = vec![false; net.nodes.len()];
        let mut order: Vec<(usize, Option<usize>)> = Vec::with_capacity(net.nodes.len());
        for s in &net.sources {
            if !std::mem::replace(&mut seen[s.node], true) {
                order.push((s.node, None));
            }
        }
        let mut next = 0;
        while next < order.len() {
            let (node, _) = order[next];
            next += 1;
            for &l in &around[node] {
                let link = &net.links[l];
                let forward = link.from == node;
                let other = if forward { link.to } else { link.from };
                let one_way = !matches!(link.kind, LinkKind::Pipe { .. });
                if !(seen[other] || one_way && !forward) {
                    seen[other] = true;
                    order.push((other, Some(l)));
                }
            }
        }
        let small = (self.scale / 100.0).max(0.01);
        for part in &mut self.links {
            part.q = if part.state == LinkState::Closed {
                0.0
            } else {
                small
            };
        }
        for &(node, via) in order.iter().rev() {
            let Some(l) = via else { continue };
            let link = &net.links[l];
            let flow = wanted[node].max(small * 0.01);
            let (sign, other) = if link.to == node {
                (1.0, link.from)
            } else {
                (-1.0, link.to)
            };
            self.links[l].q = sign * flow;
            wanted[other] += wanted[node];
        }
        let count = self.sources.len() as f64;
        for (_, part) in &mut self.sources {
            part.q = (self.scale / count).max(0.01);
            part.refresh();
        }
        for part in &mut self.links {
            part.refresh();
        }
        // Where every other pipe closes a loop, the tree's flows are far from the truth: the first
        // step then solves the pipes as straight laws, at the resistance of an everyday velocity.
        let open = self.links.iter().filter(|p| p.state == LinkState::Open).count();
        if open > order.len() + order.len() / 10 {
            for (part, link) in self.links.iter_mut().zip(&net.links) {
                if let (LinkKind::Pipe { inside, .. }, LinkState::Open) = (&link.kind, part.state) {
                    let q = Flow::at_speed(*inside, EVERYDAY).lpm();
                    (part.q, part.h, part.slope) = (0.0, 0.0, part.law.at(q).0 / q);
                }
            }
        }
    }
}

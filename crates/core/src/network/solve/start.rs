//! Flows to start from: exact on a tree, everyday velocities round loops.

use super::*;

impl Solver<'_> {
    /// Starts every link with what hangs behind it when each emitter gives its nominal flow, along
    /// a spanning tree from the sources: exact but for the pressure where the network is a tree.
    pub(super) fn start_flows(&mut self) {
        let small = (self.scale / 100.0).max(0.01);
        // The diagonal is empty as yet: it holds what is wanted behind each node.
        let mut wanted = std::mem::take(&mut self.diagonal);
        for e in &self.emitters {
            wanted[e.node as usize] += e.q;
        }
        for part in &mut self.links {
            part.q = small;
        }
        for (i, h) in self.hung.iter().enumerate() {
            self.links[i].q = h.sign * wanted[i].max(small * 0.01);
            wanted[h.parent as usize] += wanted[i];
        }
        for (node, via) in self.span_core().into_iter().rev() {
            let Some(l) = via else { continue };
            let (from, to) = self.ends[l];
            let flow = wanted[node].max(small * 0.01);
            let (sign, other) = if to as usize == node {
                (1.0, from)
            } else {
                (-1.0, to)
            };
            self.links[l].q = sign * flow;
            wanted[other as usize] += wanted[node];
        }
        self.diagonal = wanted;
        let count = self.sources.len() as f64;
        for (_, _, part) in &mut self.sources {
            part.q = (self.scale / count).max(0.01);
            part.refresh();
        }
        for part in &mut self.links {
            part.refresh();
        }
        self.hold_regulators();
        // Where every other pipe closes a loop, the tree's flows are far from the truth: the first
        // step then solves the pipes as straight laws, at the resistance of an everyday velocity.
        let hanging = self.hung.len();
        let (nodes, links) = (self.head.len() - hanging, self.links.len() - hanging);
        if links > nodes + nodes / 10 && nodes > 2 {
            for l in hanging..self.links.len() {
                let link = &self.network.links[self.order.links[l] as usize];
                let part = &mut self.links[l];
                if let LinkKind::Pipe { inside, .. } = &link.kind {
                    let q = Flow::at_speed(*inside, EVERYDAY).lpm();
                    (part.q, part.h, part.slope) = (0.0, 0.0, part.law.at(q).0 / q);
                }
            }
        }
    }

    /// The core's nodes from the sources outwards, each with the link that it is reached by.
    fn span_core(&self) -> Vec<(usize, Option<usize>)> {
        let hanging = self.hung.len();
        let mut order: Vec<(usize, Option<usize>)> = Vec::with_capacity(self.head.len() - hanging);
        if self.core.is_none() {
            return order;
        }
        let mut around: Vec<Vec<u32>> = vec![Vec::new(); self.head.len() - hanging];
        for l in hanging..self.links.len() {
            let (from, to) = self.ends[l];
            around[from as usize - hanging].push(l as u32);
            around[to as usize - hanging].push(l as u32);
        }
        let mut seen = vec![false; self.head.len() - hanging];
        for (node, _, _) in &self.sources {
            if !std::mem::replace(&mut seen[*node - hanging], true) {
                order.push((*node, None));
            }
        }
        let mut next = 0;
        while next < order.len() {
            let (node, _) = order[next];
            next += 1;
            for &l in &around[node - hanging] {
                let (from, to) = self.ends[l as usize];
                let (forward, other) = (
                    from as usize == node,
                    if from as usize == node { to } else { from },
                );
                let two_way = matches!(self.links[l as usize].law, Law::Pipe { .. });
                if !seen[other as usize - hanging] && (two_way || forward) {
                    seen[other as usize - hanging] = true;
                    order.push((other as usize, Some(l as usize)));
                }
            }
        }
        order
    }

    /// Regulators in trees start out holding where the street's pressure alone would open them wide:
    /// most of them do, and a first step that need not find it out is a step less.
    fn hold_regulators(&mut self) {
        let most = self.sources.iter().map(|s| s.1).fold(f64::NEG_INFINITY, f64::max);
        for &l in self.regulators.iter().filter(|l| **l < self.hung.len()) {
            if most > self.set[l] + self.links[l].h {
                self.links[l].state = LinkState::Active;
            }
        }
    }
}

//! Flows to start from: exact on a tree, everyday velocities round loops.

use super::*;

impl Solver<'_> {
    /// Starts every link with what hangs behind it when each emitter gives its nominal flow, along
    /// a spanning tree from the sources: exact but for the pressure where the network is a tree. There
    /// the pressure that such flows would leave says better what each emitter gives.
    pub(super) fn start_flows(&mut self) {
        self.send_what_is_wanted();
        self.hold_regulators();
        if self.core.is_none() {
            self.start_emitters();
            self.send_what_is_wanted();
        }
        self.straighten_loops();
    }

    /// Sends through every link what the emitters behind it give.
    fn send_what_is_wanted(&mut self) {
        let small = (self.scale / 100.0).max(0.01);
        let least = small * 0.01;
        // The diagonal is empty as yet: it holds what is wanted behind each node.
        let mut wanted = std::mem::take(&mut self.diagonal);
        wanted.fill(0.0);
        for e in &self.emitters {
            wanted[e.node as usize] += e.q;
        }
        for (i, h) in self.hung.iter().enumerate() {
            let part = &mut self.links[i];
            part.q = f64::from(h.sign) * wanted[i].max(least);
            part.refresh();
            wanted[h.parent as usize] += wanted[i];
        }
        for part in &mut self.links[self.hung.len()..] {
            part.q = small;
        }
        for (node, via) in self.span_core().into_iter().rev() {
            let Some(l) = via else { continue };
            let (from, to) = self.ends(l);
            let flow = wanted[node].max(least);
            let (sign, other) = if to == node { (1.0, from) } else { (-1.0, to) };
            self.links[l].q = sign * flow;
            wanted[other] += wanted[node];
        }
        for part in &mut self.links[self.hung.len()..] {
            part.refresh();
        }
        let all = self.emitters.iter().map(|e| e.q).sum::<f64>();
        let count = self.sources.len() as f64;
        for (_, _, part) in &mut self.sources {
            part.q = (all / count).max(0.01);
            part.refresh();
        }
        self.diagonal = wanted;
    }

    /// Emitters of a tree by what they share with the way to them: nearly exact on a sound site, and less
    /// than a step's work.
    fn start_emitters(&mut self) {
        let root = self.hung.len();
        let Some((_, reservoir, source)) = self.sources.first() else {
            return;
        };
        // Head with nothing running, of the source or of the regulator on the way.
        let mut still = std::mem::take(&mut self.diagonal);
        (still[root], self.head[root]) = (*reservoir, reservoir - source.h);
        for (i, h) in self.hung.iter().enumerate().rev() {
            let (part, above) = (&self.links[i], h.parent as usize);
            (still[i], self.head[i]) = match part.state {
                LinkState::Active => {
                    let held = held_by(&self.one_way, i);
                    (held, held)
                }
                _ => (still[above], self.head[above] - f64::from(h.sign) * part.h),
            };
        }
        for e in &mut self.emitters {
            let i = e.node as usize;
            e.share(&self.given.laws, still[i], self.head[i]);
        }
        self.diagonal = still;
    }

    /// Where every other pipe closes a loop, the tree's flows are far from the truth: the first
    /// step then solves the pipes as straight laws, at the resistance of an everyday velocity.
    fn straighten_loops(&mut self) {
        let hanging = self.hung.len();
        let (nodes, links) = (self.head.len() - hanging, self.links.len() - hanging);
        if links <= nodes + nodes / 10 || nodes <= 2 {
            return;
        }
        for (part, l) in self.links[hanging..].iter_mut().zip(&self.order.round) {
            let link = &self.network.links[*l as usize];
            if let LinkKind::Pipe { inside, .. } = &link.kind {
                let q = Flow::at_speed(*inside, EVERYDAY).lpm();
                (part.q, part.h, part.slope) = (0.0, 0.0, part.law.at(q).0 / q);
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
            let (from, to) = self.ends(l);
            around[from - hanging].push(l as u32);
            around[to - hanging].push(l as u32);
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
                let (from, to) = self.ends(l as usize);
                let forward = from == node;
                let other = if forward { to } else { from };
                let two_way = matches!(self.links[l as usize].law, Law::Pipe { .. });
                if !seen[other - hanging] && (two_way || forward) {
                    seen[other - hanging] = true;
                    order.push((other, Some(l as usize)));
                }
            }
        }
        order
    }

    /// Regulators in trees start out holding where the street's pressure alone would open them wide:
    /// most of them do, and a first step that need not find it out is a step less.
    fn hold_regulators(&mut self) {
        let most = self.sources.iter().map(|s| s.1).fold(f64::NEG_INFINITY, f64::max);
        for way in self.one_way.iter().filter(|way| way.link < self.hung.len()) {
            let part = &mut self.links[way.link];
            if most > way.set + part.h {
                part.state = LinkState::Active;
            }
        }
    }
}

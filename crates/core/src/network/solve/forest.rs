//! Trees taken off a network: what hangs on it by one link only can be eliminated exactly, leaf by
//! leaf, before the loops are solved, and followed back afterwards. No fill, no general algebra:
//! a site is a tree but for a few loops, so this is nearly all of it.
//!
//! # Source
//! Parter, S. (1961), "The use of linear graphs in Gauss elimination", SIAM Review 3(2): a tree
//! eliminated from its leaves makes no fill.

use super::*;

/// Neighbours of every node over links that water can pass.
pub(super) struct Around {
    start: Vec<u32>,
    /// Link and the node at its other end.
    pairs: Vec<(u32, u32)>,
}

/// A link as a way for water: looked at many times over, so without what else a link is.
#[derive(Clone, Copy)]
pub(super) struct Way {
    pub(super) from: u32,
    pub(super) to: u32,
    /// Water can pass at all.
    passes: bool,
    /// It passes both ways, as through a pipe.
    pub(super) both: bool,
}

impl Way {
    fn of(link: &Link) -> Self {
        Self {
            from: link.from as u32,
            to: link.to as u32,
            passes: link.from != link.to && !matches!(link.kind, LinkKind::Pipe { open: false, .. }),
            both: matches!(link.kind, LinkKind::Pipe { .. }),
        }
    }
}

impl Around {
    fn of(nodes: usize, ways: &[Way]) -> Self {
        let mut start = vec![0u32; nodes + 1];
        for way in ways.iter().filter(|w| w.passes) {
            start[way.from as usize + 1] += 1;
            start[way.to as usize + 1] += 1;
        }
        for i in 1..start.len() {
            start[i] += start[i - 1];
        }
        let mut next = start.clone();
        let mut pairs = vec![(0, 0); start[start.len() - 1] as usize];
        for (i, way) in ways.iter().enumerate().filter(|(_, w)| w.passes) {
            for (here, other) in [(way.from, way.to), (way.to, way.from)] {
                pairs[next[here as usize] as usize] = (i as u32, other);
                next[here as usize] += 1;
            }
        }
        Self { start, pairs }
    }

    /// Links at a node, each with the node at its other end.
    pub(super) fn at(&self, node: usize) -> impl Iterator<Item = (usize, usize)> + '_ {
        self.pairs[self.start[node] as usize..self.start[node + 1] as usize]
            .iter()
            .map(|&(link, other)| (link as usize, other as usize))
    }

    /// Which nodes water can reach, along the arrows of one-way parts.
    fn reached(&self, network: &Network, ways: &[Way]) -> Vec<bool> {
        let mut seen = vec![false; network.nodes.len()];
        let mut stack: Vec<usize> = Vec::new();
        for source in &network.sources {
            if !std::mem::replace(&mut seen[source.node], true) {
                stack.push(source.node);
            }
        }
        while let Some(node) = stack.pop() {
            for (l, other) in self.at(node) {
                let way = &ways[l];
                if (way.both || way.from as usize == node) && !seen[other] {
                    seen[other] = true;
                    stack.push(other);
                }
            }
        }
        seen
    }
}

/// The network in the order in which it is worked: what hangs first, leaves before what they hang on;
/// then the core, which is loops and what joins sources. The link that a hanging node hangs by has the
/// node's own place. Whatever water can't reach has no place.
pub(super) struct Order {
    /// Nodes and links by place.
    pub(super) nodes: Vec<u32>,
    pub(super) links: Vec<u32>,
    /// Place of every node; [`NOWHERE`] for what is cut off.
    pub(super) place: Vec<u32>,
    /// The node that each hanging one hangs on, by place.
    pub(super) parents: Vec<u32>,
    /// By link of the network.
    pub(super) ways: Vec<Way>,
}

/// Place of what has none.
pub(super) const NOWHERE: u32 = u32::MAX;

impl Order {
    /// Takes leaves off as long as there are any. Sources stay, so water runs from the core outwards.
    pub(super) fn of(network: &Network, peel: bool) -> Self {
        let ways: Vec<Way> = network.links.iter().map(Way::of).collect();
        let n = network.nodes.len();
        let around = Around::of(n, &ways);
        let live = around.reached(network, &ways);
        let wet = |w: &Way| w.passes && live[w.from as usize] && live[w.to as usize];
        let mut degree = vec![0u32; n];
        for way in ways.iter().filter(|w| wet(w)) {
            degree[way.from as usize] += 1;
            degree[way.to as usize] += 1;
        }
        let mut stays = vec![!peel; n];
        for source in &network.sources {
            stays[source.node] = true;
        }
        let mut place = vec![NOWHERE; n];
        let mut hung: Vec<(u32, u32, u32)> = Vec::with_capacity(n);
        let mut used = vec![false; network.links.len()];
        for first in 0..n {
            // Followed at once: what lies along a branch is then worked along it.
            let mut next = Some(first);
            while let Some(node) = next.take() {
                if !live[node] || degree[node] != 1 || stays[node] || place[node] != NOWHERE {
                    continue;
                }
                let up = around.at(node).find(|(l, other)| live[*other] && !used[*l]);
                let Some((link, parent)) = up else { continue };
                used[link] = true;
                place[node] = hung.len() as u32;
                hung.push((node as u32, link as u32, parent as u32));
                degree[parent] -= 1;
                next = Some(parent);
            }
        }
        let mut nodes: Vec<u32> = hung.iter().map(|h| h.0).collect();
        let mut links: Vec<u32> = hung.iter().map(|h| h.1).collect();
        for node in (0..n).filter(|i| live[*i]) {
            if place[node] == NOWHERE {
                place[node] = nodes.len() as u32;
                nodes.push(node as u32);
            }
        }
        for (l, way) in ways.iter().enumerate() {
            if wet(way) && !used[l] {
                links.push(l as u32);
            }
        }
        let parents = hung.iter().map(|h| place[h.2 as usize]).collect();
        Self {
            nodes,
            links,
            place,
            parents,
            ways,
        }
    }

    /// How many nodes hang.
    pub(super) fn hanging(&self) -> usize {
        self.parents.len()
    }
}

/// What the elimination leaves of a node that hangs.
#[derive(Debug, Clone, Copy)]
pub(super) struct Hung {
    pub(super) parent: u32,
    /// 1 where its link leads to it, -1 where it leads away.
    pub(super) sign: f64,
    /// Head of the node: `base` and `share` of its parent's.
    share: f64,
    base: f64,
    /// What the step sends through its link.
    pub(super) flow: f64,
}

impl Hung {
    pub(super) fn new(parent: u32, sign: f64) -> Self {
        Self {
            parent,
            sign,
            share: 0.0,
            base: 0.0,
            flow: 0.0,
        }
    }
}

impl Solver<'_> {
    /// Eliminates what hangs, leaves first: afterwards `diagonal` and `rhs` of the core's nodes hold
    /// all that hangs on them.
    pub(super) fn fold_in(&mut self) {
        for (i, h) in self.hung.iter_mut().enumerate() {
            let part = &mut self.links[i];
            let (d, r) = (self.diagonal[i], self.rhs[i]);
            let parent = h.parent as usize;
            if part.state == LinkState::Active {
                // Its outlet is held, so what leaves there is known here and now.
                (h.share, h.base) = (0.0, self.set[i]);
                part.q = d * self.set[i] - r;
                self.rhs[parent] -= part.q;
                continue;
            }
            let (c, y) = part.line();
            let into = r + h.sign * c;
            let inverse = 1.0 / (d + y);
            h.share = y * inverse;
            h.base = into * inverse;
            self.diagonal[parent] += d * h.share;
            self.rhs[parent] += h.share * into - h.sign * c;
        }
    }

    /// Heads of what hangs, from the core outwards, and the flows that go with them: what leaves
    /// behind each link. As the difference of two heads over a wide pipe it would be mostly rounding.
    pub(super) fn follow_out(&mut self) {
        for (i, h) in self.hung.iter_mut().enumerate().rev() {
            self.head[i] = h.base + h.share * self.head[h.parent as usize];
            h.flow = h.sign * (self.diagonal[i] * self.head[i] - self.rhs[i]);
        }
    }
}

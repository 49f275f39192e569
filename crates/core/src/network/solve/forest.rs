//! Trees taken off a network: what hangs on it by one link only can be eliminated exactly, leaf by
//! leaf, before the loops are solved, and followed back afterwards. No fill, no general algebra:
//! a site is a tree but for a few loops, so this is nearly all of it.
//!
//! # Source
//! Parter, S. (1961), "The use of linear graphs in Gauss elimination", SIAM Review 3(2): a tree
//! eliminated from its leaves makes no fill.

use super::*;

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
    pub(super) fn of(link: &Link) -> Self {
        Self {
            from: link.from as u32,
            to: link.to as u32,
            passes: link.from != link.to && !matches!(link.kind, LinkKind::Pipe { open: false, .. }),
            both: matches!(link.kind, LinkKind::Pipe { .. }),
        }
    }

    /// The node at the other end.
    fn beyond(&self, node: u32) -> u32 {
        self.from ^ self.to ^ node
    }

    /// Water can leave a node by it.
    fn leads_from(&self, node: u32) -> bool {
        self.both || self.from == node
    }
}

/// The network in the order in which it is worked: what hangs first, leaves before what they hang on;
/// then the core, which is loops and what joins sources. The link that a hanging node hangs by has the
/// node's own place. Whatever water can't reach has no place.
pub(super) struct Order {
    /// What hangs, by place.
    pub(super) taken: Vec<Taken>,
    /// Nodes and links of the core: their places go on from there.
    pub(super) core: Vec<u32>,
    pub(super) round: Vec<u32>,
    /// Place of every node; [`NOWHERE`] for what is cut off.
    pub(super) place: Vec<u32>,
}

/// Place of what has none.
pub(super) const NOWHERE: u32 = u32::MAX;
/// Place of what has one, not known yet: water reaches it.
const SOMEWHERE: u32 = u32::MAX - 1;

/// Ways that are left at a node: how many, and the exclusive or of their numbers, which is the number of
/// the last one when one is left. So leaves are taken off without a list of neighbours for every node.
#[derive(Clone, Copy, Default)]
struct Left {
    count: u32,
    mixed: u32,
}

impl Left {
    fn take(&mut self, link: u32) {
        self.count -= 1;
        self.mixed ^= link;
    }
}

/// A node taken off with the link that it hangs by and the node, in the end that node's place.
pub(super) struct Taken {
    pub(super) node: u32,
    pub(super) link: u32,
    pub(super) parent: u32,
}

impl Order {
    /// Takes leaves off as long as there are any. Sources stay, so water runs from the core outwards.
    pub(super) fn of(network: &Network, ways: &[Way], peel: bool) -> Self {
        let n = network.nodes.len();
        let mut left = vec![Left::default(); n];
        for (l, way) in ways.iter().enumerate().filter(|(_, w)| w.passes) {
            for end in [way.from, way.to] {
                let at = &mut left[end as usize];
                at.count += 1;
                at.mixed ^= l as u32;
            }
        }
        let mut stays = vec![!peel; n];
        for source in &network.sources {
            stays[source.node] = true;
        }
        let mut used = vec![false; ways.len()];
        let mut taken: Vec<Taken> = Vec::with_capacity(n);
        for first in 0..n as u32 {
            // Followed at once: what lies along a branch is then worked along it.
            let mut node = first;
            while left[node as usize].count == 1 && !stays[node as usize] {
                let link = left[node as usize].mixed;
                let parent = ways[link as usize].beyond(node);
                used[link as usize] = true;
                taken.push(Taken { node, link, parent });
                left[node as usize].take(link);
                left[parent as usize].take(link);
                node = parent;
            }
        }
        let round: Vec<u32> =
            (0..ways.len() as u32).filter(|l| ways[*l as usize].passes && !used[*l as usize]).collect();
        let mut place = reached_core(network, ways, &round);
        for t in taken.iter().rev() {
            if place[t.parent as usize] != NOWHERE && ways[t.link as usize].leads_from(t.parent) {
                place[t.node as usize] = SOMEWHERE;
            }
        }
        Self::placed(taken, round, ways, place)
    }

    /// Gives places to what water reaches.
    fn placed(mut taken: Vec<Taken>, mut round: Vec<u32>, ways: &[Way], mut place: Vec<u32>) -> Self {
        taken.retain(|t| place[t.node as usize] != NOWHERE);
        for (i, t) in taken.iter().enumerate() {
            place[t.node as usize] = i as u32;
        }
        let mut core = Vec::new();
        for (node, place) in place.iter_mut().enumerate().filter(|(_, p)| **p == SOMEWHERE) {
            *place = (taken.len() + core.len()) as u32;
            core.push(node as u32);
        }
        for t in &mut taken {
            t.parent = place[t.parent as usize];
        }
        let wet = |end: u32| place[end as usize] != NOWHERE;
        round.retain(|l| wet(ways[*l as usize].from) && wet(ways[*l as usize].to));
        Self { taken, core, round, place }
    }

    /// Nodes by place.
    pub(super) fn nodes(&self) -> impl Iterator<Item = u32> {
        self.taken.iter().map(|t| t.node).chain(self.core.iter().copied())
    }

    /// Links by place.
    pub(super) fn links(&self) -> impl Iterator<Item = u32> {
        self.taken.iter().map(|t| t.link).chain(self.round.iter().copied())
    }

    /// How many nodes hang.
    pub(super) fn hanging(&self) -> usize {
        self.taken.len()
    }
}

/// Marks with [`SOMEWHERE`] what water reaches over the links that are left when all leaves are off, along
/// the arrows of one-way parts.
fn reached_core(network: &Network, ways: &[Way], round: &[u32]) -> Vec<u32> {
    let mut place = vec![NOWHERE; network.nodes.len()];
    let mut stack: Vec<u32> = Vec::new();
    for source in &network.sources {
        if std::mem::replace(&mut place[source.node], SOMEWHERE) == NOWHERE {
            stack.push(source.node as u32);
        }
    }
    if round.is_empty() {
        return place;
    }
    let mut around: Vec<(u32, u32)> = Vec::with_capacity(2 * round.len());
    for &l in round {
        let way = &ways[l as usize];
        around.extend([(way.from, l), (way.to, l)]);
    }
    around.sort_unstable();
    while let Some(node) = stack.pop() {
        let first = around.partition_point(|(at, _)| *at < node);
        for (_, l) in around[first..].iter().take_while(|(at, _)| *at == node) {
            let way = &ways[*l as usize];
            let beyond = way.beyond(node);
            if way.leads_from(node) && place[beyond as usize] == NOWHERE {
                place[beyond as usize] = SOMEWHERE;
                stack.push(beyond);
            }
        }
    }
    place
}

/// What the elimination leaves of a node that hangs.
#[derive(Debug, Clone, Copy)]
pub(super) struct Hung {
    pub(super) parent: u32,
    /// 1 where its link leads to it, -1 where it leads away.
    pub(super) sign: f32,
    /// Head of the node: `base` and `share` of its parent's.
    share: f64,
    base: f64,
}

impl Hung {
    pub(super) fn new(parent: u32, sign: f32) -> Self {
        Self { parent, sign, share: 0.0, base: 0.0 }
    }
}

impl Solver<'_> {
    /// Eliminates what hangs, leaves first: afterwards `diagonal` and `rhs` of the core's nodes hold
    /// all that hangs on them.
    ///
    /// With the link's drop `slope * Q - excess` and what the node takes `Q = d * head - r`, its head is
    /// `share` of its parent's and `base`. One division a node: they are what this loop costs.
    pub(super) fn fold_in(&mut self) {
        for (i, h) in self.hung.iter_mut().enumerate() {
            let part = &mut self.links[i];
            let (d, r) = (self.diagonal[i], self.rhs[i]);
            let parent = h.parent as usize;
            if part.state == LinkState::Active {
                // Its outlet is held, so what leaves there is known here and now.
                (h.share, h.base) = (0.0, held_by(&self.one_way, i));
                part.q = d * h.base - r;
                self.rhs[parent] -= part.q;
                continue;
            }
            let (slope, excess) = part.fall();
            let excess = f64::from(h.sign) * excess;
            h.share = 1.0 / (1.0 + d * slope);
            h.base = h.share * (r * slope + excess);
            self.diagonal[parent] += d * h.share;
            self.rhs[parent] += h.share * (r - d * excess);
        }
    }

    /// Heads and flows of what hangs, from the core outwards, in one pass while they are at hand. A flow is
    /// what leaves behind its link: as the difference of two heads over a wide pipe it would be mostly
    /// rounding. `rhs`, which has done its work by then, takes up the balance of each node.
    pub(super) fn follow_out(&mut self, relax: f64) -> Energy {
        let mut energy = Energy::default();
        self.rhs[self.hung.len()..].fill(0.0);
        for (i, h) in self.hung.iter().enumerate().rev() {
            let (part, sign) = (&mut self.links[i], f64::from(h.sign));
            let above = self.head[h.parent as usize];
            let head = h.base + h.share * above;
            self.head[i] = head;
            match part.state {
                LinkState::Closed => part.q = 0.0,
                LinkState::Active => {}
                LinkState::Open => {
                    let flow = sign * (self.diagonal[i] * head - self.rhs[i]);
                    part.go_to(flow, relax);
                    energy.see(i, part, sign * (above - head));
                }
            }
            let into = sign * part.q;
            self.rhs[i] = into;
            self.rhs[h.parent as usize] -= into;
        }
        energy
    }
}

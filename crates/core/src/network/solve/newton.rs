//! One step of Newton's method on heads and flows.

use super::*;

/// How far the parts are from their own relations of pressure and flow.
#[derive(Clone, Copy)]
pub(super) struct Energy {
    /// kPa.
    pub(super) off: f64,
    /// The link that is furthest off.
    pub(super) worst: usize,
}

impl Default for Energy {
    fn default() -> Self {
        Self { off: 0.0, worst: usize::MAX }
    }
}

impl Energy {
    /// Looks at a link whose ends leave it this drop.
    pub(super) fn see(&mut self, link: usize, part: &Part<'_>, drop: f64) {
        let off = (drop - part.h).abs();
        // A one-way part that is about to close is not off: it is closing.
        let counts = part.q >= -REVERSAL || matches!(part.law, Law::Pipe { .. });
        if counts && (off > self.off || !off.is_finite()) {
            (self.off, self.worst) = (off, link);
        }
    }
}

impl Solver<'_> {
    /// One Newton step: heads from the linearised system, then flows from the heads.
    pub(super) fn step(&mut self, relax: f64) -> Result<(), SolveError> {
        self.gather();
        self.pin_outlets();
        self.fold_in();
        let solved = match self.core.take() {
            Some(mut core) => {
                let solved = self.solve_core(&mut core);
                self.core = Some(core);
                solved
            }
            None => self.solve_root(),
        };
        if !solved {
            return self.open_again();
        }
        let mut energy = self.follow_out(relax);
        self.flow_round(relax, &mut energy);
        let mut mass = 0.0f64;
        for e in &mut self.emitters {
            let i = e.node as usize;
            mass = mass.max(e.follow(&self.given.laws, self.head[i], relax));
            self.rhs[i] -= e.q;
        }
        self.pass_through_regulators();
        for off in &self.rhs {
            mass = mass.max(off.abs());
        }
        self.left_over = LeftOver { energy, mass };
        Ok(())
    }

    /// One source with a tree on it.
    fn feeds_one_root(&self) -> bool {
        self.core.is_none() && self.sources.len() == 1
    }

    /// What sources and emitters bring to the equations of their nodes.
    fn gather(&mut self) {
        self.diagonal.fill(0.0);
        self.rhs.fill(0.0);
        if !self.feeds_one_root() {
            for (node, reservoir, part) in &self.sources {
                let (c, y) = part.line();
                self.diagonal[*node] += y;
                self.rhs[*node] += c + y * reservoir;
            }
        }
        for e in &self.emitters {
            let (d, r) = e.brings(&self.given.laws);
            self.diagonal[e.node as usize] += d;
            self.rhs[e.node as usize] += r;
        }
    }

    /// A core of one node: all else has been folded into it. One source feeds it as a link feeds what hangs.
    fn solve_root(&mut self) -> bool {
        let root = self.hung.len();
        let (d, r) = (self.diagonal[root], self.rhs[root]);
        let head = match self.sources.as_slice() {
            [(_, _, part)] if part.state == LinkState::Closed => f64::NAN,
            [(_, reservoir, part)] => {
                let (slope, excess) = part.fall();
                (reservoir + r * slope + excess) / (1.0 + d * slope)
            }
            // Hanging on closed parts alone, its equation is all but empty.
            _ if d <= CLOSED * 1e-3 => f64::NAN,
            _ => r / d,
        };
        self.root_takes = d * head - r;
        if head.is_finite() {
            self.head[root] = head;
        }
        head.is_finite()
    }

    /// Heads of the core by one sparse system.
    fn solve_core(&mut self, core: &mut Core) -> bool {
        let hanging = self.hung.len();
        let system = &mut core.system;
        system.clear();
        for i in 0..self.head.len() - hanging {
            match self.pinned[i] {
                Some(l) => {
                    system.add_diagonal(i, 1.0);
                    system.rhs[i] = held_by(&self.one_way, l);
                }
                None => {
                    system.add_diagonal(i, self.diagonal[hanging + i]);
                    system.rhs[i] = self.rhs[hanging + i];
                }
            }
        }
        for (place, l) in (hanging..self.links.len()).enumerate() {
            let part = &self.links[l];
            let (a, b) = (self.round[place].0 as usize - hanging, self.round[place].1 as usize - hanging);
            let held = |i: usize| self.pinned[i].map(|l| held_by(&self.one_way, l));
            let (pin_a, pin_b) = (held(a), held(b));
            if part.state == LinkState::Active {
                if pin_a.is_none() {
                    system.rhs[a] -= part.q;
                }
                continue;
            }
            let (c, y) = part.line();
            if pin_a.is_none() {
                system.add_diagonal(a, y);
                system.rhs[a] -= c;
            }
            if pin_b.is_none() {
                system.add_diagonal(b, y);
                system.rhs[b] += c;
            }
            match (pin_a, pin_b) {
                (None, None) => system.add_slot(core.slots[place], -y),
                (Some(head), None) => system.rhs[b] += y * head,
                (None, Some(head)) => system.rhs[a] += y * head,
                (Some(_), Some(_)) => {}
            }
        }
        let solved = system.solve().is_ok();
        if solved {
            self.head[hanging..].copy_from_slice(&system.rhs);
        }
        solved
    }

    /// Closed parts may have left a piece hanging on nothing: open them and look again.
    fn open_again(&mut self) -> Result<(), SolveError> {
        let mut opened = false;
        for way in &self.one_way {
            let part = &mut self.links[way.link];
            opened |= part.state == LinkState::Closed && part.switch(LinkState::Open);
        }
        for (_, _, part) in &mut self.sources {
            opened |= part.state == LinkState::Closed && part.switch(LinkState::Open);
        }
        if opened {
            return Ok(());
        }
        Err(SolveError::BadFigure { part: "the network".into() })
    }

    /// Flows of the core's links from the heads of their ends.
    fn flow_round(&mut self, relax: f64, energy: &mut Energy) {
        for l in self.hung.len()..self.links.len() {
            let (from, to) = self.ends(l);
            let part = &mut self.links[l];
            match part.state {
                LinkState::Closed => part.q = 0.0,
                LinkState::Active => {}
                LinkState::Open => {
                    let drop = self.head[from] - self.head[to];
                    let (c, y) = part.line();
                    part.go_to(c + y * drop, relax);
                    energy.see(l, part, drop);
                }
            }
            self.rhs[from] -= part.q;
            self.rhs[to] += part.q;
        }
        let of_root = self.feeds_one_root();
        for (node, reservoir, part) in &mut self.sources {
            let drop = *reservoir - self.head[*node];
            if part.state == LinkState::Closed {
                part.q = 0.0;
            } else {
                let flow = if of_root {
                    self.root_takes
                } else {
                    let (c, y) = part.line();
                    c + y * drop
                };
                part.go_to(flow, relax);
                energy.off = energy.off.max((drop - part.h).abs());
            }
            self.rhs[*node] += part.q;
        }
    }
}

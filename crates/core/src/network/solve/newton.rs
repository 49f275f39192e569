//! One step of Newton's method on heads and flows.

use super::*;

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
        self.follow_out();
        self.update_flows(relax);
        Ok(())
    }

    /// What sources and emitters bring to the equations of their nodes.
    fn gather(&mut self) {
        self.diagonal.fill(0.0);
        self.rhs.fill(0.0);
        for (node, reservoir, part) in &self.sources {
            let (c, y) = part.line();
            self.diagonal[*node] += y;
            self.rhs[*node] += c + y * reservoir;
        }
        for e in &self.emitters {
            let i = e.node as usize;
            match e.mode {
                EmitterMode::Off => {}
                EmitterMode::Low => {
                    let (_, slope) = self.laws[e.law as usize].straight();
                    self.diagonal[i] += slope;
                    self.rhs[i] += slope * self.height[i];
                }
                EmitterMode::Limited => self.rhs[i] -= e.q,
                EmitterMode::Power => {
                    self.diagonal[i] += e.y;
                    self.rhs[i] -= e.q - (e.h + self.height[i]) * e.y;
                }
            }
        }
    }

    /// A core of one node: all else has been folded into it.
    fn solve_root(&mut self) -> bool {
        let root = self.hung.len();
        let head = self.rhs[root] / self.diagonal[root];
        // Hanging on closed parts alone, its equation is all but empty.
        let sound = head.is_finite() && self.diagonal[root] > CLOSED * 1e-3;
        if sound {
            self.head[root] = head;
        }
        sound
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
                    system.rhs[i] = self.set[l];
                }
                None => {
                    system.add_diagonal(i, self.diagonal[hanging + i]);
                    system.rhs[i] = self.rhs[hanging + i];
                }
            }
        }
        for (place, l) in (hanging..self.links.len()).enumerate() {
            let part = &self.links[l];
            let (a, b) = (
                self.ends[l].0 as usize - hanging,
                self.ends[l].1 as usize - hanging,
            );
            let held = |i: usize| self.pinned[i].map(|l| self.set[l]);
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
        for &l in &self.one_way {
            let part = &mut self.links[l];
            opened |= part.state == LinkState::Closed && part.switch(LinkState::Open);
        }
        for (_, _, part) in &mut self.sources {
            opened |= part.state == LinkState::Closed && part.switch(LinkState::Open);
        }
        if opened {
            return Ok(());
        }
        Err(SolveError::BadFigure {
            part: "the network".into(),
        })
    }

    /// Flows from the heads, and what of energy and mass they leave over.
    fn update_flows(&mut self, relax: f64) {
        let mix = |old: f64, new: f64| old + relax * (new - old);
        // The right-hand side has done its work: it holds the balance of each node now.
        let balance = &mut self.rhs;
        balance.fill(0.0);
        let (mut energy, mut worst, mut mass) = (0.0f64, usize::MAX, 0.0f64);
        let hanging = self.hung.len();
        for (l, part) in self.links.iter_mut().enumerate() {
            let (from, to) = (self.ends[l].0 as usize, self.ends[l].1 as usize);
            match part.state {
                LinkState::Closed => part.q = 0.0,
                LinkState::Active => {}
                LinkState::Open => {
                    let drop = self.head[from] - self.head[to];
                    let new = if l < hanging {
                        self.hung[l].flow
                    } else {
                        let (c, y) = part.line();
                        c + y * drop
                    };
                    part.q = mix(part.q, new);
                    part.refresh();
                    let off = (drop - part.h).abs();
                    // A one-way part that is about to close is not off: it is closing.
                    let counts = part.q >= -REVERSAL || matches!(part.law, Law::Pipe { .. });
                    if counts && (off > energy || !off.is_finite()) {
                        (energy, worst) = (off, l);
                    }
                }
            }
            balance[from] -= part.q;
            balance[to] += part.q;
        }
        for (node, reservoir, part) in &mut self.sources {
            let drop = *reservoir - self.head[*node];
            if part.state == LinkState::Closed {
                part.q = 0.0;
            } else {
                let (c, y) = part.line();
                part.q = mix(part.q, c + y * drop);
                part.refresh();
                energy = energy.max((drop - part.h).abs());
            }
            balance[*node] += part.q;
        }
        for e in &mut self.emitters {
            let i = e.node as usize;
            let law = &self.laws[e.law as usize];
            let p = self.head[i] - self.height[i];
            if e.mode == EmitterMode::Power {
                let new = mix(e.q, e.q + (p - e.h) * e.y);
                // Never shut at one blow: on a starved network all heads would shut together,
                // see the full pressure, open together, and so on for ever.
                e.q = new.max(e.q * 0.1);
            }
            let (least, slope) = law.straight();
            e.mode = if p >= law.limit {
                e.q = law.most;
                EmitterMode::Limited
            } else if e.mode == EmitterMode::Power && e.q >= least {
                EmitterMode::Power
            } else if p <= 0.0 {
                e.q = 0.0;
                EmitterMode::Off
            } else if p * slope <= least || e.mode == EmitterMode::Off {
                e.q = p * slope;
                EmitterMode::Low
            } else {
                e.q = law.flow_at(p);
                EmitterMode::Power
            };
            if e.mode == EmitterMode::Power {
                e.refresh(law);
            }
            balance[i] -= e.q;
            mass = mass.max((e.q - law.flow_at(p)).abs());
        }
        self.pass_through_regulators();
        for off in &self.rhs {
            mass = mass.max(off.abs());
        }
        self.left_over = LeftOver { energy, mass, worst };
    }
}

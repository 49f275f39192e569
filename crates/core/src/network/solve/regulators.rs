//! Regulators and check valves between Newton steps: which are open, active or closed.

use super::*;

/// The head that a link holds; infinite for what holds none.
pub(super) fn held_by(one_way: &[OneWay], link: usize) -> f64 {
    let found = one_way.binary_search_by_key(&link, |way| way.link);
    found.map_or(f64::INFINITY, |at| one_way[at].set)
}

impl Solver<'_> {
    /// Marks the outlets in the core that active regulators hold; of two on one outlet the higher set
    /// point. What a regulator in a tree holds is seen to in the elimination.
    pub(super) fn pin_outlets(&mut self) {
        let hanging = self.hung.len();
        self.pinned.fill(None);
        for way in self.one_way.iter().filter(|way| way.regulates()) {
            let l = way.link;
            if l < hanging || self.links[l].state != LinkState::Active {
                continue;
            }
            let outlet = self.ends(l).1 - hanging;
            let loser = match self.pinned[outlet] {
                Some(other) if held_by(&self.one_way, other) >= way.set => Some(l),
                other => {
                    self.pinned[outlet] = Some(l);
                    other
                }
            };
            if let Some(loser) = loser {
                self.links[loser].switch(LinkState::Closed);
                self.links[loser].q = 0.0;
            }
        }
    }

    /// An active regulator passes just what leaves its outlet: what its balance lacks.
    pub(super) fn pass_through_regulators(&mut self) {
        // Outlets furthest downstream come first in trees; in loops, where they may feed one another,
        // it is repeated until it settles.
        for _ in 0..8 {
            let mut changed = false;
            for way in self.one_way.iter().filter(|way| way.regulates()) {
                let l = way.link;
                if self.links[l].state != LinkState::Active {
                    continue;
                }
                let (inlet, outlet) = self.ends(l);
                let more = -self.rhs[outlet];
                changed |= more.abs() > 1e-12 && l >= self.hung.len();
                self.links[l].q += more;
                self.links[l].refresh();
                self.rhs[outlet] += more;
                self.rhs[inlet] -= more;
            }
            if !changed {
                break;
            }
        }
    }

    /// Opens and closes what must; true if anything changed.
    pub(super) fn switch_states(&mut self, iteration: usize, settled: bool) -> bool {
        if iteration < 2 {
            return true;
        }
        let mut switched = false;
        for way in &self.one_way {
            let (from, to) = self.ends(way.link);
            let (inlet, outlet, set) = (self.head[from], self.head[to], way.set);
            let part = &mut self.links[way.link];
            let to = match part.state {
                state if !settled && state != LinkState::Open => state,
                _ if settled && part.q < -REVERSAL => LinkState::Closed,
                LinkState::Open if outlet > set + 1e-6 => LinkState::Active,
                LinkState::Active if inlet - part.h < set - 1e-6 => LinkState::Open,
                LinkState::Closed if inlet - outlet > part.law.at(0.0).0 + 1e-6 && outlet < set - 1e-6 => {
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
        for (node, reservoir, part) in &mut self.sources {
            let to = match part.state {
                _ if part.q < -REVERSAL => LinkState::Closed,
                LinkState::Closed if *reservoir > self.head[*node] + 1e-6 => LinkState::Open,
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

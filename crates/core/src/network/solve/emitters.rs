//! Emitters while they are solved, in the order of their nodes' places.

use super::*;

/// Laws of emitters: heads of one kind come in runs and share one, so that a large network's stay at hand.
pub(super) struct EmitterLaws {
    pub(super) laws: Vec<EmitterLaw>,
    /// By emitter, its law and its node: read again and again, without what else an emitter is.
    pub(super) of: Vec<(u32, u32)>,
}

impl EmitterLaws {
    /// The emitters that water reaches: in order by counting, in one pass.
    pub(super) fn by_place(&self, order: &Order, height: &[f64]) -> Vec<EmitterState> {
        let places = || self.of.iter().map(|(_, node)| order.place[*node as usize]);
        let mut next = vec![0u32; height.len() + 1];
        for place in places().filter(|place| *place != NOWHERE) {
            next[place as usize + 1] += 1;
        }
        for i in 1..next.len() {
            next[i] += next[i - 1];
        }
        let mut at = vec![0u32; next.last().map_or(0, |n| *n as usize)];
        for (i, place) in places().enumerate().filter(|(_, place)| *place != NOWHERE) {
            let slot = &mut next[place as usize];
            at[*slot as usize] = i as u32;
            *slot += 1;
        }
        let nominal = |law: &EmitterLaw| (law.nominal(), law.at(law.nominal()));
        let nominal: Vec<(f64, (f64, f64))> = self.laws.iter().map(nominal).collect();
        let state = |at: u32| {
            let (law, node) = self.of[at as usize];
            let (q, (h, y)) = nominal[law as usize];
            let node = order.place[node as usize];
            EmitterState { mode: EmitterMode::Power, law, node, at, height: height[node as usize], q, h, y }
        };
        at.into_iter().map(state).collect()
    }
}

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum EmitterMode {
    /// On its power law.
    Power,
    /// On the flat part: compensating, or held by its body regulator.
    Limited,
    /// On the straight line near zero.
    Low,
    /// No pressure.
    Off,
}

pub(super) struct EmitterState {
    pub(super) mode: EmitterMode,
    /// Its law, its node, and its own place in the network.
    pub(super) law: u32,
    pub(super) node: u32,
    pub(super) at: u32,
    pub(super) height: f64,
    pub(super) q: f64,
    /// Pressure that this flow wants, and how much it rises by pressure, on the power law.
    pub(super) h: f64,
    pub(super) y: f64,
}

impl EmitterState {
    pub(super) fn refresh(&mut self, law: &EmitterLaw) {
        (self.h, self.y) = law.at(self.q);
    }

    /// Starts it at its share of the pressure there is, `still` being the head with nothing running and
    /// `head` that which the flows of now leave: where all the way's losses and its own go by the square of
    /// the flow, it gets the root of what there is over what they cost.
    pub(super) fn share(&mut self, laws: &[EmitterLaw], still: f64, head: f64) {
        let law = &laws[self.law as usize];
        let share = ((still - self.height) / (still - head + self.h)).max(0.01).sqrt();
        self.q = (self.q * share).min(law.most);
        if self.h * share * share >= law.limit {
            (self.mode, self.q) = (EmitterMode::Limited, law.most);
        }
        self.refresh(law);
    }

    /// What it brings to the diagonal and the right side of its node's equation.
    pub(super) fn brings(&self, laws: &[EmitterLaw]) -> (f64, f64) {
        match self.mode {
            EmitterMode::Off => (0.0, 0.0),
            EmitterMode::Low => {
                let (_, slope) = laws[self.law as usize].straight();
                (slope, slope * self.height)
            }
            EmitterMode::Limited => (0.0, -self.q),
            EmitterMode::Power => (self.y, (self.h + self.height) * self.y - self.q),
        }
    }

    /// Takes the flow that a step's head means, `relax` of the way; returns how far it is from its own law.
    pub(super) fn follow(&mut self, laws: &[EmitterLaw], head: f64, relax: f64) -> f64 {
        let law = &laws[self.law as usize];
        let p = head - self.height;
        let given = law.flow_at(p);
        if self.mode == EmitterMode::Power {
            let new = self.q + relax * (p - self.h) * self.y;
            // A tangent taken where next to nothing ran overshoots by a multiple, and would be
            // halved step by step.
            let new = if new > 2.0 * given && given > 0.0 { given } else { new };
            // Never shut at one blow: on a starved network all heads would shut together,
            // see the full pressure, open together, and so on for ever.
            self.q = new.max(self.q * 0.1);
        }
        let (least, slope) = law.straight();
        self.mode = if p >= law.limit {
            self.q = law.most;
            EmitterMode::Limited
        } else if self.mode == EmitterMode::Power && self.q >= least {
            EmitterMode::Power
        } else if p <= 0.0 {
            self.q = 0.0;
            EmitterMode::Off
        } else if p * slope <= least || self.mode == EmitterMode::Off {
            self.q = p * slope;
            EmitterMode::Low
        } else {
            self.q = given;
            EmitterMode::Power
        };
        if self.mode == EmitterMode::Power {
            self.refresh(law);
        }
        (self.q - given).abs()
    }
}

//! Local search: arcs, throws and places are changed a little, one head after the other, as long as
//! the water lies better. Only the cells that a head reaches are looked at, so a park costs in
//! proportion to its heads.

use super::family::Family;
use super::field::{Field, harm};
use super::fit::Fitter;
use super::trial::Trial;
use crate::catalogue::{Catalogue, Nozzle};
use crate::coverage::{Ground, Reaching, Under, least_throws, own_rate};
use crate::site::Point;
use crate::units::Rate;

/// Rounds over all heads at most.
const ROUNDS: usize = 8;

/// The water of some heads on the ground.
pub(super) struct CastWater<'a, 'g> {
    pub catalogue: &'a Catalogue,
    ground: &'g Ground,
    /// L/min on every cell.
    pub lpm: Vec<f32>,
    shares: Vec<Vec<(u32, f32)>>,
    pub heads: Vec<Trial<'a>>,
    /// L/min that a cell of the area should get.
    target: f32,
    harms: Vec<f32>,
}

/// A cell that gets less than it should is worse than one that gets more by as much; a dry one is
/// much worse.
fn unevenness(share: f32) -> f32 {
    let short = 1.0 - share;
    if short <= 0.0 {
        short * short
    } else {
        let (thin, bare) = ((0.5 - share).max(0.0), (0.2 - share).max(0.0));
        2.4 * short * short + 4.0 * thin * thin + 40.0 * bare * bare
    }
}

impl<'a, 'g> CastWater<'a, 'g> {
    pub fn new(catalogue: &'a Catalogue, ground: &'g Ground, heads: Vec<Trial<'a>>) -> Self {
        let harms = ground.under.iter().map(|u| harm(*u) as f32).collect();
        let mut water = Self {
            catalogue,
            ground,
            lpm: vec![0.0; ground.grid.len()],
            shares: Vec::new(),
            heads,
            target: 0.0,
            harms,
        };
        for i in 0..water.heads.len() {
            let shares = water.lands(&water.heads[i]);
            shares.iter().for_each(|(cell, q)| water.lpm[*cell as usize] += q);
            water.shares.push(shares);
        }
        water.aim();
        water
    }

    /// What of a head lands where, L/min.
    fn lands(&self, head: &Trial<'_>) -> Vec<(u32, f32)> {
        let throw = head.throw(self.catalogue);
        let mut out = Vec::new();
        throw.shares(&self.ground.grid, None, &mut out);
        let q = throw.flow.lpm() as f32;
        out.iter_mut().for_each(|s| s.1 *= q);
        out
    }

    /// Every cell should get the mean, within a tenth of what the kind applies by itself.
    fn aim(&mut self) {
        let (sum, n) = self
            .ground
            .under
            .iter()
            .zip(&self.lpm)
            .filter(|(u, _)| **u == Under::Area)
            .fold((0.0f64, 0usize), |(s, n), (_, q)| (s + f64::from(*q), n + 1));
        let mean = sum / n.max(1) as f64;
        // What the kind applies by itself: more is thrown away on even the evenest ground.
        let m2 = self.ground.grid.cell_m2();
        let applied = Rate::from_mmph(60.0 * mean / m2);
        let heads = self.heads.iter().map(|h| (h.nozzle, h.arc));
        let own = own_rate(self.catalogue, heads, applied).mmph() / 60.0 * m2;
        self.target = (mean.clamp(0.9 * own, 1.1 * own) as f32).max(1e-9);
    }

    /// Adds water to cells (or takes it off) and says how much worse that is.
    fn pour(&mut self, shares: &[(u32, f32)], sign: f32) -> f32 {
        let mut worse = 0.0;
        for (cell, q) in shares {
            let cell = *cell as usize;
            let (was, now) = (self.lpm[cell] / self.target, (self.lpm[cell] + sign * q) / self.target);
            worse += if self.harms[cell] > 0.0 {
                self.harms[cell] * (now - was)
            } else {
                unevenness(now) - unevenness(was)
            };
            self.lpm[cell] += sign * q;
        }
        worse
    }

    /// Puts another head in the place of one if the water then lies better.
    fn exchange(&mut self, i: usize, other: Trial<'a>) -> bool {
        let old = std::mem::take(&mut self.shares[i]);
        let new = self.lands(&other);
        let worse = self.pour(&old, -1.0) + self.pour(&new, 1.0);
        if worse < -1e-3 {
            (self.shares[i], self.heads[i]) = (new, other);
            return true;
        }
        self.pour(&new, -1.0);
        self.pour(&old, 1.0);
        self.shares[i] = old;
        false
    }

    /// Takes heads away whose going makes nothing worse than `worth` cells that are right.
    fn thin(&mut self, worth: f32) {
        let mut i = 0;
        while i < self.heads.len() {
            let old = std::mem::take(&mut self.shares[i]);
            if !self.heads[i].fixed && self.pour(&old, -1.0) < worth {
                self.shares.remove(i);
                self.heads.remove(i);
                continue;
            }
            if !self.heads[i].fixed {
                self.pour(&old, 1.0);
            }
            self.shares[i] = old;
            i += 1;
        }
    }

    /// Sets a head where the ground is driest, while there is dry ground that one can reach.
    fn fill(&mut self, field: &Field, family: &Family<'a>, throw: f64) {
        for _ in 0..8 {
            let dry = |c: &usize| self.ground.under[*c] == Under::Area && self.lpm[*c] < 0.25 * self.target;
            let far = |c: usize| {
                self.heads.iter().map(|h| h.at.distance(self.ground.grid.centre(c))).fold(f64::MAX, f64::min)
            };
            let Some(cell) = (0..self.lpm.len()).filter(dry).max_by(|a, b| far(*a).total_cmp(&far(*b)))
            else {
                return;
            };
            let at = self.ground.grid.centre(cell);
            if far(cell) < throw * 0.5 || !field.holds(at) {
                return;
            }
            let (arc, facing) = Fitter::new(family, throw).arc(self.ground, at);
            let Some((nozzle, radius)) = family.nozzle(arc, throw) else {
                return;
            };
            let head = Trial { at, facing, arc, nozzle, radius, fixed: false };
            let shares = self.lands(&head);
            if self.pour(&shares, 1.0) > 0.0 {
                self.pour(&shares, -1.0);
                return;
            }
            self.shares.push(shares);
            self.heads.push(head);
        }
    }

    /// The least throw of each head with which it reaches its neighbours; rows lie along the frame.
    fn least_throws(&self, field: &Field) -> Vec<f64> {
        let heads: Vec<Reaching> = self
            .heads
            .iter()
            .map(|h| Reaching { at: h.at, throw: h.throw_length(), arc: h.arc, facing: h.facing })
            .collect();
        least_throws(&heads, Some(0.0), &|p| field.holds(p))
    }

    /// Rounds of search; fewer where nothing gets better any more. Heads that are `strewn` rather than
    /// in rows may be moved too.
    pub fn improve(
        &mut self,
        field: &Field,
        family: &Family<'a>,
        throw: f64,
        strewn: bool,
        stopped: &dyn Fn() -> bool,
    ) {
        self.fill(field, family, throw);
        for round in 0..ROUNDS {
            let mut better = false;
            let least = self.least_throws(field);
            for (i, least) in least.into_iter().enumerate() {
                if stopped() {
                    return;
                }
                if self.heads[i].fixed {
                    continue;
                }
                for other in self.variants(i, field, family, throw, round, strewn) {
                    // A throw may be turned down only as far as it still reaches its neighbours.
                    let (now, then) = (self.heads[i].throw_length(), other.throw_length());
                    if then < now && then < least {
                        continue;
                    }
                    better |= self.exchange(i, other);
                }
            }
            if round == 0 {
                // A head is worth about what it takes to set and feed one.
                self.thin((0.02 * throw * throw / self.ground.grid.cell_m2()) as f32);
            }
            self.aim();
            if !better {
                break;
            }
        }
    }

    /// A head a little otherwise.
    fn variants(
        &self,
        i: usize,
        field: &Field,
        family: &Family<'a>,
        throw: f64,
        round: usize,
        strewn: bool,
    ) -> Vec<Trial<'a>> {
        let head = &self.heads[i];
        let others = family.turned_to(head.arc, throw).into_iter();
        let others = others.filter(|(n, r)| n.id != head.nozzle.id || *r != head.radius);
        let other = |(nozzle, radius): (&'a Nozzle, _)| Trial { nozzle, radius, ..head.clone() };
        let mut out: Vec<Trial<'a>> = others.map(other).collect();
        let (least, most) = family.arcs();
        let mut with = |arc: i32, facing: f64, length: f64, at: Point| {
            let arc = u16::try_from(arc).unwrap_or(0);
            if arc < least || arc > most || !field.holds(at) {
                return;
            }
            if let Some((nozzle, radius)) = family.nozzle(arc, length) {
                out.push(Trial { at, facing: facing.rem_euclid(360.0), arc, nozzle, radius, fixed: false });
            }
        };
        let (arc, length) = (i32::from(head.arc), head.throw_length());
        // Those of a set have been turned down already.
        let shares: &[f64] = match family.is_set() {
            true => &[],
            false => &[1.0, 0.92, 0.85, 0.78, 0.7, 0.6, 0.5],
        };
        for share in shares {
            let tried = throw * share;
            if (tried - length).abs() > 0.02 * throw
                && tried >= family.least()
                && (round > 0 || *share > 0.65)
            {
                with(arc, head.facing, tried, head.at);
            }
        }
        if arc < 360 {
            for (by, side) in
                [(10, 1.0), (10, -1.0), (-10, 1.0), (-10, -1.0), (5, 1.0), (5, -1.0), (-5, 1.0), (-5, -1.0)]
            {
                with(arc + by, head.facing + side * f64::from(by) / 2.0, length, head.at);
            }
        }
        // Heads strewn inside may give way, but not to where another stands; those on edges, corners and
        // in rows stand where they are told.
        if arc == 360 && strewn {
            for degrees in [0.0, 90.0, 180.0, 270.0] {
                let to = head.at.toward(degrees, throw * if round.is_multiple_of(2) { 0.08 } else { 0.04 });
                let apart = |h: &Trial<'_>| h.at == head.at || h.at.distance(to) > throw * 0.6;
                if self.heads.iter().all(apart) {
                    with(arc, head.facing, length, to);
                }
            }
        }
        out
    }
}

use crate::catalogue::{ArcRule, Catalogue, Kind, Nozzle};
use crate::units::Length;

/// The least share of the throw that was laid out for that a closer spacing may call for.
const CLOSER: f64 = 0.68;

/// How far the flow of a nozzle may be off its share of a circle, as a logarithm: a fifth more or less, so that the most
/// of a set is no more than one and a half times the least, which is where a finding would have it mended.
const MATCHES: f64 = 0.203;
/// What a throw that a nozzle falls short by weighs against a flow that is off, as shares.
const SHORT: f64 = 1.5;

/// How far nozzles of a set for larger arcs may throw over the throw that is laid out for.
const FARTHER: f64 = 1.35;

/// Nozzles of one kind, which may share a valve, by their throw.
#[derive(Debug, Clone)]
pub struct Family<'a> {
    /// Their kind.
    pub kind: Kind,
    nozzles: Vec<&'a Nozzle>,
    /// L/min on a full circle that each arc's nozzle is matched to; none where the kind is matched by its make.
    full: Option<f64>,
}

impl<'a> Family<'a> {
    /// The nozzles of a kind that throw over a sector: all of them, or those on the truck alone.
    pub fn of(catalogue: &'a Catalogue, kind: Kind, on_truck: bool) -> Option<Self> {
        let mut nozzles: Vec<&Nozzle> = catalogue
            .nozzles
            .iter()
            .filter(|n| {
                n.kind == kind && n.radius.is_some() && n.pattern.is_none() && (n.favourite || !on_truck)
            })
            .collect();
        nozzles.sort_by(|a, b| radius(a).total_cmp(&radius(b)));
        (!nozzles.is_empty()).then_some(Self { kind, nozzles, full: None })
    }

    /// The kind by sets of nozzles whose flows follow the arc, 90 : 180 : 360 = 1 : 2 : 4, up to two for each nozzle that
    /// may serve the quarters; the kind as it is where nozzles are matched by their make or none match.
    ///
    /// Short rotors of 0.6, 1.0, 1.5, 2.0 and 3.0 gpm: 0.6, 1.0, 2.0 for a quarter, a half, a full circle; 1.0, 1.5,
    /// 3.0; and from 1.5 on no full circle is large enough.
    pub fn sets(&self) -> Vec<Self> {
        let any = |n: &&&Nozzle| n.arc_rule == ArcRule::Any;
        let quarters = self.nozzles.iter().filter(any).filter(|n| n.makes(90));
        // The quarter's own, and a fifth less: larger arcs of somewhat less than their share throw less far.
        let mut fulls: Vec<f64> = quarters.flat_map(|n| [4.0, 3.27].map(|k| k * n.flow.lpm())).collect();
        fulls.sort_by(f64::total_cmp);
        fulls.dedup_by(|a, b| (*a / *b - 1.0).abs() < 0.1);
        let sets = fulls.into_iter().map(|full| Self { full: Some(full), ..self.clone() });
        let whole = |set: &Self| [90, 180, 360].iter().all(|arc| set.matching(*arc).next().is_some());
        let sets: Vec<Self> = sets.filter(whole).collect();
        if sets.is_empty() { vec![self.clone()] } else { sets }
    }

    /// Whether it is a set matched by the arc.
    pub fn is_set(&self) -> bool {
        self.full.is_some()
    }

    /// Nozzles of a set for an arc, each with how far its flow is off; none of what is not a set.
    fn matching(&self, arc: u16) -> impl Iterator<Item = (&'a Nozzle, f64)> {
        let wanted = self.full.unwrap_or(0.0) * f64::from(arc) / 360.0;
        let off = move |n: &Nozzle| (n.flow_for_arc(arc).lpm() / wanted.max(1e-9)).ln().abs();
        let able = self.nozzles.iter().filter(move |n| n.makes(arc));
        let is_set = self.is_set();
        able.map(move |n| (*n, off(n))).filter(move |n| is_set && n.1 <= MATCHES)
    }

    /// The nozzle of a set for an arc that comes nearest to a throw.
    fn matched(&self, arc: u16, throw: f64) -> Option<&'a Nozzle> {
        let weighs = |n: &(&Nozzle, f64)| n.1 + SHORT * (throw / radius(n.0) - 1.0).max(0.0);
        let best = self.matching(arc).min_by(|a, b| weighs(a).total_cmp(&weighs(b)));
        best.map(|n| n.0)
    }

    /// Throws to lay out for, metres: each nozzle's own, and somewhat turned down; the
    /// shortest turned down farther.
    pub fn throws(&self) -> Vec<f64> {
        let mut throws: Vec<f64> = self.nozzles.iter().flat_map(|n| [radius(n), radius(n) * 0.88]).collect();
        // The shortest of all, as far down as it goes: on ground that its full throw is too wide for.
        throws.extend(self.nozzles.first().map(|n| (radius(n) * 0.76).max(least(n))));
        throws.sort_by(f64::total_cmp);
        throws.dedup_by(|a, b| (*a - *b).abs() < 0.04 * *b);
        throws
    }

    /// Throws to try at places that came out closer than they were asked for: the full throws of lesser nozzles
    /// where turning down keeps the flow, and turned down in steps; of sprays there is a nozzle for every few feet,
    /// and fewer steps do.
    pub fn closer(&self, throw: f64) -> Vec<f64> {
        let mut closer: Vec<f64> = Vec::new();
        if !self.kind.keeps_rate_turned_down() {
            let near = |r: &f64| *r < throw * 0.99 && *r > throw * CLOSER;
            closer.extend(self.nozzles.iter().map(|n| radius(n)).filter(near));
        }
        let steps: &[f64] = match self.kind {
            Kind::Spray => &[0.9, 0.8],
            _ => &[0.95, 0.9, 0.85, 0.8, 0.75, 0.7],
        };
        closer.extend(steps.iter().map(|s| s * throw));
        closer.retain(|r| *r >= self.least());
        closer
    }

    /// How far some of them may throw, as a share of the throw that is laid out for: a set's nozzles for larger arcs
    /// throw farther than those for quarters.
    pub fn reach(&self) -> f64 {
        if self.is_set() { FARTHER } else { 1.0 }
    }

    /// Throws that nozzles of a set which match an arc can be turned down to, metres, each with its nozzle; for a
    /// throw that is laid out for, so many times that at the most.
    pub fn turned_to(&self, arc: u16, throw: f64) -> Vec<(&'a Nozzle, Option<Length>)> {
        let steps = |n: &'a Nozzle| [1.0, 0.92, 0.84, 0.76].map(|k| (n, k * radius(n)));
        let each = self.matching(arc).flat_map(|n| steps(n.0));
        let able = each.filter(|(n, to)| *to >= least(n) * 0.995 && *to <= throw * FARTHER);
        able.map(|(n, to)| (n, turned(n, to))).collect()
    }

    /// The farthest that any of them throws, metres.
    pub fn farthest(&self) -> f64 {
        self.nozzles.last().map_or(0.0, |n| radius(n))
    }

    /// The shortest throw that any of them can be turned down to, metres.
    pub fn least(&self) -> f64 {
        self.nozzles.first().map_or(0.0, |n| least(n))
    }

    /// The nozzle for an arc and a throw, and what its throw is turned down to; none if no nozzle of
    /// the family throws so far or can be turned down so far. Of a set it is the one that matches the arc, as near
    /// to the throw as it goes.
    pub fn nozzle(&self, arc: u16, throw: f64) -> Option<(&'a Nozzle, Option<Length>)> {
        if let Some(n) = self.matched(arc, throw) {
            return Some((n, turned(n, throw)));
        }
        let fits = |n: &&&Nozzle| radius(n) > throw * 0.995 && least(n) < throw * 1.005 && n.makes(arc);
        let able: Vec<&&Nozzle> = self.nozzles.iter().filter(fits).collect();
        let flow = |n: &Nozzle| n.flow.lpm();
        // Matched by arc: the least nozzle serves a quarter, all others in proportion.
        let fewest = able.iter().map(|n| flow(n)).fold(f64::MAX, f64::min);
        let most = able.iter().map(|n| flow(n)).fold(0.0, f64::max);
        let wanted = (4.0 * fewest).min(1.15 * most) * f64::from(arc) / 360.0;
        let unlike = |n: &Nozzle| {
            let turned = 1.0 - throw / radius(n);
            match n.arc_rule {
                ArcRule::Any => (flow(n) / wanted).ln().abs() + 0.2 * turned,
                ArcRule::Proportional | ArcRule::Fixed => turned,
            }
        };
        let best = able.into_iter().min_by(|a, b| unlike(a).total_cmp(&unlike(b)))?;
        Some((best, turned(best, throw)))
    }

    /// Arcs that a nozzle of the family can be set to.
    pub fn arcs(&self) -> (u16, u16) {
        self.nozzles.iter().fold((360, 0), |(low, high), n| (low.min(n.arcs.0), high.max(n.arcs.1)))
    }
}

/// What the throw of a nozzle is turned down to; within 2 % nobody turns the screw.
fn turned(n: &Nozzle, throw: f64) -> Option<Length> {
    (throw < radius(n) * 0.98).then(|| Length::from_m(throw.max(least(n))))
}

fn least(n: &Nozzle) -> f64 {
    n.least_throw().map_or(0.0, Length::m)
}

fn radius(n: &Nozzle) -> f64 {
    n.radius.map_or(0.0, Length::m)
}

use crate::catalogue::{ArcRule, Catalogue, Kind, Nozzle};
use crate::units::Length;

/// The least share of the throw that was laid out for that a closer spacing may call for.
const CLOSER: f64 = 0.68;

/// Nozzles of one kind, which may share a valve, by their throw.
#[derive(Debug, Clone)]
pub struct Family<'a> {
    /// Their kind.
    pub kind: Kind,
    nozzles: Vec<&'a Nozzle>,
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
        (!nozzles.is_empty()).then_some(Self { kind, nozzles })
    }

    /// Throws to lay out for, metres: each nozzle's own, and somewhat turned down; the
    /// shortest turned down farther.
    pub fn throws(&self) -> Vec<f64> {
        let mut throws: Vec<f64> = self
            .nozzles
            .iter()
            .flat_map(|n| [radius(n), radius(n) * 0.88])
            .collect();
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

    /// The shortest throw that any of them can be turned down to, metres.
    pub fn least(&self) -> f64 {
        self.nozzles.first().map_or(0.0, |n| least(n))
    }

    /// The nozzle for an arc and a throw, and what its throw is turned down to; none if no nozzle of
    /// the family throws so far or can be turned down so far.
    pub fn nozzle(&self, arc: u16, throw: f64) -> Option<(&'a Nozzle, Option<Length>)> {
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
        let full = radius(best);
        // Within 2 % nobody turns the screw.
        Some((
            best,
            (throw < full * 0.98).then(|| Length::from_m(throw.max(least(best)))),
        ))
    }

    /// Arcs that a nozzle of the family can be set to.
    pub fn arcs(&self) -> (u16, u16) {
        self.nozzles
            .iter()
            .fold((360, 0), |(low, high), n| (low.min(n.arcs.0), high.max(n.arcs.1)))
    }
}

fn least(n: &Nozzle) -> f64 {
    n.least_throw().map_or(0.0, Length::m)
}

fn radius(n: &Nozzle) -> f64 {
    n.radius.map_or(0.0, Length::m)
}

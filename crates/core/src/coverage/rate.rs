//! The rate that nozzles apply by themselves.

use crate::catalogue::{Catalogue, Nozzle};
use crate::units::Rate;

/// Ratio of rates from which to watch.
pub const RATE_WATCH: f64 = 1.15;
/// Ratio of rates at which to stop.
pub const RATE_STOP: f64 = 1.5;

/// What the kind of some heads applies by itself, to hold a rate against. Rotors have a nozzle for every flow, so
/// theirs is a range: from the least of the class ([`crate::catalogue::HeadClass::rates`]) to its most, or to what
/// these nozzles apply as far apart as the shortest throw of them reaches, if that is more. It is the rate itself while
/// it lies in the range, else the end that it passed. Matched kinds have one rate, [`head_to_head`].
///
/// Short rotors are made for 0.3 to 0.6 in/h: set to apply 0.45 they are held against 0.45, at 0.2 against 0.3. But a
/// quarter of 0.6 gpm throws 17 ft, a half of 1.0 matches it: 17 ft apart they apply 96.25 · (0.6 + 1.0) / (17² · ¾) =
/// 0.71 in/h, and are held against that.
pub fn own_rate<'n>(
    catalogue: &Catalogue,
    heads: impl Iterator<Item = (&'n Nozzle, u16)> + Clone,
    applied: Rate,
) -> Rate {
    match class_rates(catalogue, heads.clone()) {
        Some((least, most)) => applied.max(least).min(most.max(within_reach(heads))),
        None => head_to_head(heads),
    }
}

/// The rates of the one class that all heads are of, where it has a range.
fn class_rates<'n>(
    catalogue: &Catalogue,
    heads: impl Iterator<Item = (&'n Nozzle, u16)>,
) -> Option<(Rate, Rate)> {
    let ranges = heads.map(|h| catalogue.class(h.0.kind).rates);
    ranges.reduce(|a, b| a.filter(|_| a == b)).flatten()
}

/// Rate of nozzles as far apart as the shortest full throw of them reaches.
fn within_reach<'n>(heads: impl Iterator<Item = (&'n Nozzle, u16)> + Clone) -> Rate {
    let throws = heads.clone().filter_map(|h| h.0.radius);
    let apart = throws.map(|r| r.m()).fold(f64::MAX, f64::min);
    let (flow, circles) = heads.fold((0.0, 0.0), |(q, n), (nozzle, arc)| {
        (q + nozzle.flow_for_arc(arc).lpm(), n + f64::from(arc) / 360.0)
    });
    Rate::from_mmph(60.0 * flow / f64::max(circles * apart * apart, 1e-9))
}

/// Rate of nozzles set head to head, each arc on its share of the square of its full throw:
/// Σ q / Σ (R² arc / 360), mm/h for L/min and m. Squares on the ground that they wet, strips on half of it.
pub fn head_to_head<'n>(heads: impl Iterator<Item = (&'n Nozzle, u16)>) -> Rate {
    let (flow, ground) = heads.fold((0.0, 0.0), |(q, m2), (nozzle, arc)| {
        let own = match (nozzle.pattern, nozzle.radius) {
            (Some(s), _) if s.width == s.length => s.width.m() * s.length.m(),
            // A strip thins out along its length: neighbours stand half of it apart.
            (Some(strip), _) => strip.width.m() * strip.length.m() / 2.0,
            (None, Some(radius)) => radius.m().powi(2) * f64::from(arc) / 360.0,
            (None, None) => 0.0,
        };
        (q + nozzle.flow_for_arc(arc).lpm(), m2 + own)
    });
    Rate::from_mmph(60.0 * flow / f64::max(ground, 1e-9))
}

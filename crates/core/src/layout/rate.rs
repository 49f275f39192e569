//! The rate that nozzles apply by themselves.

use crate::catalogue::{Catalogue, Nozzle};
use crate::units::Rate;

/// What the kind of some heads applies by itself, to hold a rate against. Rotors have a nozzle for every flow, so
/// theirs is a range of the class ([`crate::catalogue::HeadClass::rates`]): the rate itself while it lies in it, else
/// the end that it passed. Matched kinds have one rate, [`head_to_head`].
///
/// Short rotors are made for 0.3 to 0.6 in/h: set to apply 0.45 they are held against 0.45, at 1.0 against 0.6.
pub fn own_rate<'n>(
    catalogue: &Catalogue,
    heads: impl Iterator<Item = (&'n Nozzle, u16)>,
    applied: Rate,
) -> Rate {
    let heads: Vec<(&Nozzle, u16)> = heads.collect();
    let ranges = heads.iter().map(|h| catalogue.class(h.0.kind).rates);
    match ranges.reduce(|a, b| a.filter(|_| a == b)).flatten() {
        Some((least, most)) => applied.max(least).min(most),
        None => head_to_head(heads.into_iter()),
    }
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

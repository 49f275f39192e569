//! The rate that nozzles apply by themselves.

use crate::catalogue::Nozzle;
use crate::units::Rate;

/// Rate of nozzles set head to head, each arc on its share of the square of its full throw:
/// Σ q / Σ (R² arc / 360), mm/h for L/min and m. Squares on the ground that they wet, strips on half of it.
pub fn own_rate<'n>(heads: impl Iterator<Item = (&'n Nozzle, u16)>) -> Rate {
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

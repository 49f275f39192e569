//! One emitter that feeds a ring of emitters in quarter-inch tube: what comes into the ring is what the first one lets
//! through, shared by those in it.

use crate::catalogue::{Catalogue, Kind, Nozzle, PipeId};
use crate::network::Emission;
use crate::units::{Flow, Length, Pressure};
use std::f64::consts::PI;

/// Emitters of the ring's tube are so far apart, in: the farthest that quarter-inch tube comes with.
const EVERY_IN: f64 = 12.0;
/// Fewer make no ring.
const LEAST: u32 = 3;
/// As many at the most.
const MOST: u32 = 60;
/// A ring is made no longer than leaves so much in it, psi: with less its lowest side takes the water.
pub const EVEN_FROM_PSI: f64 = 1.0;

/// A ring that one emitter feeds.
#[derive(Debug, Clone, PartialEq)]
pub struct FedRing {
    /// Emitters in it.
    pub count: u32,
    /// Its tube with emitters, of the catalogue.
    pub tube: String,
    /// Between them.
    pub every: Length,
    /// What each gives.
    pub each: Flow,
    /// What is left in the ring, and is lost to the emitter that feeds it.
    pub pressure: Pressure,
}

impl FedRing {
    /// Once round.
    pub fn length(&self) -> Length {
        self.every * f64::from(self.count)
    }
    /// From its middle.
    pub fn radius(&self) -> Length {
        self.length() * (0.5 / PI)
    }
}

/// Too few emitters for what would feed them.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct RingTooTight {
    /// Emitters in the ring.
    pub count: u32,
    /// What would feed it.
    pub feed: Flow,
    /// What it lets through at the most.
    pub most: Flow,
}

/// A ring about a canopy, behind an emitter of so much flow: `each` emitters, else one for every foot of the canopy's edge,
/// no more than stay even. Its tube is the one of least flow that leaves the feeding emitter its band.
///
/// A ring of n emitters that give q at p0 and do not compensate passes Q at p0 (Q / n q)^2; the emitter that feeds it
/// works against that.
///
/// # Errors
/// [`RingTooTight`] where even the tube of most flow takes more pressure than the feeding emitter can spare.
///
/// # Example
/// 2 gph into twelve of 0.5 gph at 25 psi, by hand: 25 (2 / 6)^2 = 2.8 psi, 0.167 gph each (a test holds it).
pub fn fed_ring(
    catalogue: &Catalogue,
    micro: &PipeId,
    feed: Flow,
    canopy: Length,
    each: Option<u32>,
) -> Result<FedRing, RingTooTight> {
    let class = catalogue.class(Kind::Emitter);
    // At its nominal pressure the feeding emitter can spare what it has over its least.
    let spare = class.nominal - class.low;
    let mut tubes: Vec<&Nozzle> = catalogue
        .nozzles
        .iter()
        .filter(|n| n.kind == Kind::Dripline && n.tube.as_ref() == Some(micro))
        .collect();
    tubes.sort_by(|a, b| a.flow.lpm().total_cmp(&b.flow.lpm()));
    let every = Length::from_in(EVERY_IN);
    let round = (PI * canopy.m() / every.m()).round() as u32;
    let mut most = Flow::ZERO;
    let mut count = LEAST;
    for tube in tubes {
        let emission = tube.emission(catalogue.class(tube.kind), (360, None), None);
        let Emission::Orifice { flow, at_pressure, .. } = emission else {
            continue;
        };
        // As many as still have a psi between them.
        let even = feed / (flow * (EVEN_FROM_PSI / at_pressure.psi()).sqrt());
        count = each.unwrap_or(round.min(even as u32)).clamp(LEAST, MOST);
        let all = flow * f64::from(count);
        let share = feed / all;
        let pressure = at_pressure * (share * share);
        if pressure <= spare {
            return Ok(FedRing {
                count,
                tube: tube.id.clone(),
                every,
                each: feed * (1.0 / f64::from(count)),
                pressure,
            });
        }
        most = most.max(all * (spare / at_pressure).sqrt());
    }
    Err(RingTooTight { count, feed, most })
}

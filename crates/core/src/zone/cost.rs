//! What a zone spends behind the shared chain, for its flow at working pressure.

use super::figures::ZoneAssessment;
use super::inputs::ZoneInputs;
use super::walk::WalkPart;
use crate::units::{Length, Pressure};
use crate::water::OwnCost;

/// Friction on the way to the neediest head at the zone's own flow: sums of the walk's steps, kPa. A
/// regulator counts with its own loss wide open, and a body with at most a fifteenth of the nozzle's
/// pressure: what they take off beyond that is no need. Height is that of the worst head over the end of the
/// chain.
pub fn own_cost(inputs: &ZoneInputs, zone: &ZoneAssessment) -> OwnCost {
    let sum = |wanted: fn(&WalkPart) -> bool| -> Pressure {
        let steps = zone.walk.iter().filter(|s| wanted(&s.part));
        steps.map(|s| s.cost).sum()
    };
    let low = zone.lowest();
    let open_regulator = inputs.regulator.as_ref().map_or(Pressure::ZERO, |r| r.model.loss.at(zone.flow));
    // A body that holds its set point takes more off than it needs.
    let body = sum(|p| *p == WalkPart::BodyRegulator);
    let chain: Length = inputs.point.chain.0.iter().fold(Length::ZERO, |sum, part| sum + part.rise);
    OwnCost {
        flow: zone.flow,
        lateral: sum(|p| matches!(p, WalkPart::FirstLeg | WalkPart::Legs(_) | WalkPart::Drip)),
        mainline: sum(|p| *p == WalkPart::Mainline),
        parts: sum(|p| matches!(p, WalkPart::Valve | WalkPart::Filter | WalkPart::Part(_)))
            + open_regulator
            + body.min(low.nozzle * BODY_SHARE),
        rise: zone.rise_of_lowest - chain,
        band: low.band,
    }
}

/// What an open body takes of the pressure behind it, at the most: 2 psi of 30.
const BODY_SHARE: f64 = 2.0 / 30.0;

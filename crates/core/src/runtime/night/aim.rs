use crate::catalogue::PressureBand;
use crate::units::Pressure;
use crate::water::Aim;
use crate::zone::{HeadResult, ZoneAssessment};

/// What a head is to get for an aim.
pub(super) fn wanted(aim: Aim, head: &HeadResult) -> Pressure {
    let band: PressureBand = head.band;
    aim.wanted(band, head.exponent == 0.0)
}

/// The best aim that all heads of a zone meet.
pub(super) fn aim_of(zone: &ZoneAssessment) -> Option<Aim> {
    Aim::ALL.into_iter().find(|aim| zone.heads.iter().all(|h| h.nozzle >= wanted(*aim, h)))
}

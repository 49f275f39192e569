//! A valve with all that its checks look at.

use crate::catalogue::Kind;
use crate::job::Job;
use crate::plan::{HeadGroup, Valve};
use crate::units::Pressure;
use crate::water::DesignFlow;
use crate::zone::{ZoneAssessment, ZoneInputs};

pub(super) struct Checker<'a> {
    pub job: &'a Job,
    pub valve: &'a Valve,
    pub inputs: &'a ZoneInputs,
    pub zone: &'a ZoneAssessment,
    pub design: &'a DesignFlow,
}

impl Checker<'_> {
    pub(super) fn groups(&self) -> impl Iterator<Item = &HeadGroup> {
        self.job.groups.iter().filter(|g| g.is_on(&self.valve.id))
    }

    /// Any head on the valve is of a kind.
    pub(super) fn any(&self, wanted: fn(Kind) -> bool) -> bool {
        self.zone.heads.iter().any(|h| wanted(h.kind))
    }

    /// Any head on the valve is drip.
    pub(super) fn any_drip(&self) -> bool {
        self.any(Kind::is_drip)
    }

    /// What the zone's worst head is to get: the first aim that one head alone reaches there.
    pub(super) fn aim(&self) -> Pressure {
        let low = self.zone.lowest();
        self.design.allowance(&self.valve.id).aim.wanted(low.band, low.exponent == 0.0)
    }
}

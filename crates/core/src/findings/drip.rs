//! What drip wants: a filter, a regulator in the line, and no more than it is rated for.

use super::checker::Checker;
use super::{Check, Finding, Severity};
use crate::catalogue::Kind;
use crate::plan::{DripSchool, Regulation, WaterSource};
use crate::units::Pressure;

/// Presets hold within so much: from here on up to the rating is too near.
const HOLDS_WITHIN: f64 = 0.10;

impl Checker<'_> {
    pub(super) fn drip(&self) -> Vec<Finding> {
        if !self.any_drip() {
            return Vec::new();
        }
        [self.no_filter(), self.no_regulator(), self.rating()]
            .into_iter()
            .flatten()
            .collect()
    }

    fn no_filter(&self) -> Option<Finding> {
        let school = self.job.rules.drip;
        let street = |s: &crate::plan::Supply| s.water == WaterSource::Street;
        let wanted = match school {
            DripSchool::AlwaysBoth | DripSchool::RegulateByRating => true,
            DripSchool::FilterIfDirty => !self.job.supply(&self.valve.supply).is_some_and(street),
        };
        (wanted && self.valve.filter.is_none())
            .then(|| Finding::new(Severity::Fix, Check::DripNoFilter { school }))
    }

    /// What the tubing is rated for: the house's figure, less for tape.
    fn rated(&self) -> Pressure {
        let tape = self.zone.heads.iter().filter(|h| h.kind == Kind::Tape);
        let most = tape.map(|h| h.band.most).reduce(Pressure::min);
        most.map_or(self.job.rules.drip_rating, |most| {
            most.min(self.job.rules.drip_rating)
        })
    }

    /// A regulated body means nothing to dripline: only what stands in the line before it counts, of
    /// the zone or of the whole system.
    fn no_regulator(&self) -> Option<Finding> {
        let (school, rating, standing) = (self.job.rules.drip, self.rated(), self.zone.standing);
        if standing.held.is_some() {
            return None;
        }
        let system = self.inputs.point.chain.regulated_to().is_some();
        let wanted = match school {
            DripSchool::AlwaysBoth | DripSchool::FilterIfDirty => !system || standing.most() > rating,
            DripSchool::RegulateByRating => standing.most() > rating,
        };
        let bodies = matches!(self.valve.regulation, Regulation::Body { .. });
        let check = Check::DripNoRegulator {
            school,
            standing,
            rating,
            bodies,
        };
        wanted.then(|| Finding::new(Severity::Fix, check))
    }

    /// At the lowest point of the zone, with the highest static, standing as well as running.
    fn rating(&self) -> Option<Finding> {
        let (standing, rating) = (self.zone.standing, self.rated());
        let slack = Pressure::from_psi(0.5);
        if standing.most() > rating + slack {
            return Some(Finding::new(
                Severity::Stop,
                Check::DripOverRating { standing, rating },
            ));
        }
        let near = standing.held.is_some() && standing.at_rest > rating * (1.0 - HOLDS_WITHIN) + slack;
        near.then(|| Finding::new(Severity::Watch, Check::DripNearRating { standing, rating }))
    }
}

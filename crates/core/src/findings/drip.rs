//! What drip wants: a filter, a regulator in the line, and no more than it is rated for.

use super::checker::Checker;
use super::{Check, Finding, Severity};
use crate::catalogue::Kind;
use crate::drip::{EVEN_FROM_PSI, Laid, tube_of, widest_spacing};
use crate::plan::{DripLaying, DripSchool, HeadGroup, HeadRef, Plants, Regulation};
use crate::units::{Length, Pressure, Speed};
use crate::zone::FLUSHED_FROM_FPS;

/// Presets hold within so much: from here on up to the rating is too near.
const HOLDS_WITHIN: f64 = 0.10;
/// The lowest set point that presets are made for, psi.
const LEAST_PRESET_PSI: f64 = 10.0;
/// A hair under what is wanted is as good.
const NEARLY: f64 = 0.99;

impl Checker<'_> {
    pub(super) fn drip(&self) -> Vec<Finding> {
        if !self.any_drip() {
            return Vec::new();
        }
        [self.no_filter(), self.no_regulator(), self.rating()]
            .into_iter()
            .flatten()
            .chain(self.laid_drip())
            .collect()
    }

    /// What is to be said of drip as it is laid.
    fn laid_drip(&self) -> Vec<Finding> {
        let mut all = Vec::new();
        for head in &self.inputs.drawn {
            let grid = head.grid.as_ref();
            let Some((grid, group)) = grid.zip(self.job.group(&head.head.group)) else {
                continue;
            };
            let laid = [
                self.flush_slow(&head.head, group),
                micro_tube(&grid.laid, group),
                ring(&grid.laid, group),
                downhill(&grid.laid, group, self.inputs.waterings[head.watering].nozzle.kind),
            ];
            all.extend(laid.into_iter().flatten());
            // Of several parts of one area the first speaks for all.
            if head.head.index == 0 {
                all.extend(spacing(&grid.laid, group));
            }
        }
        all
    }

    fn flush_slow(&self, head: &HeadRef, group: &HeadGroup) -> Option<Finding> {
        let flushing = self.zone.flushing.iter().find(|f| f.head == *head)?;
        let wanted = Speed::from_fps(FLUSHED_FROM_FPS);
        let rows = matches!(group.drip, Some(DripLaying::Rows(_)));
        (rows && flushing.slowest < wanted * NEARLY).then(|| {
            let check = Check::DripFlushSlow {
                group: group.id.clone(),
                name: group.name.clone(),
                slowest: flushing.slowest,
                wanted,
                out: flushing.out,
                inlet: flushing.inlet,
            };
            Finding::new(Severity::Watch, check)
        })
    }

    fn no_filter(&self) -> Option<Finding> {
        let school = self.job.rules.drip;
        let clean = |s: &crate::plan::Supply| s.water.is_mains();
        let wanted = match school {
            DripSchool::AlwaysBoth | DripSchool::RegulateByRating | DripSchool::OpenRuns => true,
            DripSchool::FilterIfDirty => !self.job.supply(&self.valve.supply).is_some_and(clean),
        };
        (wanted && self.valve.filter.is_none())
            .then(|| Finding::new(Severity::Fix, Check::DripNoFilter { school }))
    }

    /// What the tubing is rated for: the house's figure, less for tape by its wall.
    fn rated(&self) -> Pressure {
        let catalogue = self.job.catalogue();
        let nozzles = self.groups().filter_map(|g| catalogue.nozzle(&g.nozzle));
        let tubes = nozzles.filter(|n| n.kind.is_drip());
        let rated = tubes.filter_map(|n| catalogue.pipe(&tube_of(catalogue, n))?.rated);
        rated.fold(self.job.rules.drip_rating, Pressure::min)
    }

    /// A regulated body means nothing to dripline: only what stands in the line before it counts, of
    /// the zone or of the whole system.
    fn no_regulator(&self) -> Option<Finding> {
        let (school, rating, standing) = (self.job.rules.drip, self.rated(), self.zone.standing);
        if standing.held.is_some() {
            return None;
        }
        // Under the lowest preset and its room there is nothing that would hold.
        let least = Pressure::from_psi(LEAST_PRESET_PSI) + self.job.rules.regulator_room;
        if standing.most() < least {
            return None;
        }
        let system = self.inputs.point.chain.regulated_to().is_some();
        let wanted = match school {
            DripSchool::AlwaysBoth | DripSchool::FilterIfDirty => !system || standing.most() > rating,
            DripSchool::RegulateByRating => standing.most() > rating,
            // Friction regulates only while it flows.
            DripSchool::OpenRuns => self.highest_drip() > rating,
        };
        let bodies = matches!(self.valve.regulation, Regulation::Body { .. });
        let check = Check::DripNoRegulator { school, standing, rating, bodies };
        wanted.then(|| Finding::new(Severity::Fix, check))
    }

    /// The most at an emitter while it flows.
    fn highest_drip(&self) -> Pressure {
        let drip = self.zone.heads.iter().filter(|h| h.kind.is_drip());
        drip.map(|h| h.highest).reduce(Pressure::max).unwrap_or_default()
    }

    /// At the lowest point of the zone, with the highest static, standing as well as running.
    fn rating(&self) -> Option<Finding> {
        let (standing, rating) = (self.zone.standing, self.rated());
        let slack = Pressure::from_psi(0.5);
        if standing.most() > rating + slack {
            // A house that lets friction regulate is told what stands there when it stops.
            let open = self.job.rules.drip == DripSchool::OpenRuns && self.highest_drip() <= rating;
            let severity = if open { Severity::Fix } else { Severity::Stop };
            return Some(Finding::new(severity, Check::DripOverRating { standing, rating }));
        }
        let near = standing.held.is_some() && standing.at_rest > rating * (1.0 - HOLDS_WITHIN) + slack;
        near.then(|| Finding::new(Severity::Watch, Check::DripNearRating { standing, rating }))
    }
}

/// Micro tube is kept to so much as a rule.
const MICRO_TUBE_FT: f64 = 30.0;

fn micro_tube(laid: &Laid, group: &HeadGroup) -> Option<Finding> {
    let usual = Length::from_ft(MICRO_TUBE_FT);
    let longest = laid.micro_tubes.iter().copied().reduce(Length::max)?;
    (longest > usual).then(|| {
        let check =
            Check::MicroTubeLong { group: group.id.clone(), name: group.name.clone(), longest, usual };
        Finding::new(Severity::Watch, check)
    })
}

/// The ring with the least pressure, if that is too little.
fn ring(laid: &Laid, group: &HeadGroup) -> Option<Finding> {
    let rings = laid.plants.iter().filter_map(|p| p.ring.as_ref());
    let least = rings.min_by(|a, b| a.pressure.psi().total_cmp(&b.pressure.psi()))?;
    (least.pressure.psi() < EVEN_FROM_PSI).then(|| {
        let check = Check::RingUneven {
            group: group.id.clone(),
            name: group.name.clone(),
            emitters: least.count,
            left: least.pressure,
        };
        Finding::new(Severity::Watch, check)
    })
}

/// Rows that fall by less are level, percent: dripline compensates, tape does not.
const LEVEL_PERCENT: f64 = 5.0;
const TAPE_LEVEL_PERCENT: f64 = 2.0;

fn downhill(laid: &Laid, group: &HeadGroup, kind: Kind) -> Option<Finding> {
    let (fall, height) = laid.steepest_row();
    let tape = kind == Kind::Tape;
    // Rows that find the contour by themselves follow ground that is uneven as well as it goes.
    let chosen = matches!(&group.drip, Some(DripLaying::Rows(rows)) if rows.heading.is_some());
    let level = match (tape, chosen) {
        (true, _) => TAPE_LEVEL_PERCENT,
        (false, true) => LEVEL_PERCENT,
        (false, false) => 2.0 * LEVEL_PERCENT,
    };
    (fall * 100.0 >= level).then(|| {
        let check = Check::DripDownhill {
            group: group.id.clone(),
            name: group.name.clone(),
            fall: fall * 100.0,
            height,
            tape,
        };
        Finding::new(if tape { Severity::Fix } else { Severity::Watch }, check)
    })
}

/// Spacings within so much of the widest are as wide.
const SPACING_SLACK: f64 = 1.01;

fn spacing(laid: &Laid, group: &HeadGroup) -> Vec<Finding> {
    let Some(DripLaying::Rows(rows)) = &group.drip else {
        return Vec::new();
    };
    let (emitters, between) = widest_spacing(group.soil);
    let one = |rows: bool, apart: Length, widest: Length| {
        (apart > widest * SPACING_SLACK).then(|| {
            let check = Check::DripSpacing {
                group: group.id.clone(),
                name: group.name.clone(),
                rows,
                apart,
                widest,
                soil: group.soil,
            };
            Finding::new(Severity::Watch, check)
        })
    };
    // Vegetable rows stand where the crop does.
    let crop = group.plants == Plants::Vegetables;
    let of_rows = if crop { None } else { one(true, laid.row_spacing, between) };
    [one(false, rows.emitter_spacing, emitters), of_rows].into_iter().flatten().collect()
}

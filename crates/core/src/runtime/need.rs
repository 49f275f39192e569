//! What plants on a station want in a week of a month.

use super::plants::{Thirst, thirst, water_use};
use super::uniformity::{Evenness, Evennesses, multiplier};
use crate::climate::{EFFECTIVE_RAIN, MonthWater};
use crate::job::Job;
use crate::plan::{DripLaying, HeadGroup, StationWish};
use crate::site::{ObjectKind, root_depth};
use crate::units::{Flow, Length, Minutes, Rate, Surface, Volume};
use crate::zone::{ZoneAssessment, ZoneInputs};

/// What evaporates and falls in a week, and whether trees are bare.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Week {
    /// The month's figures.
    pub water: MonthWater,
    /// Trees bear no leaves.
    pub bare: bool,
}

/// How minutes follow from a need.
#[derive(Debug, Clone, PartialEq)]
pub enum Basis {
    /// A depth over ground, at the rate that is applied.
    Ground {
        /// As solved.
        rate: Rate,
        /// How evenly.
        evenness: Evenness,
        /// What unevenness lengthens the run by.
        multiplier: f64,
    },
    /// A volume for one plant, at what its emitters give.
    Plant {
        /// Its id on the plan.
        plant: String,
        /// Ground under its canopy.
        canopy: Surface,
        /// What it wants in a week.
        wants: Volume,
        /// What its emitters give together, as solved.
        gives: Flow,
    },
}

/// The need of one group, or of one plant of it.
#[derive(Debug, Clone, PartialEq)]
pub struct Need {
    /// Group.
    pub group: String,
    /// Its name.
    pub name: String,
    /// What of evaporation its plants use.
    pub thirst: Thirst,
    /// What it is reckoned from.
    pub week: Week,
    /// Depth in a week; zero where rain gives it.
    pub depth: Length,
    /// How minutes follow.
    pub basis: Basis,
    /// Minutes in a week; infinite where nothing comes out.
    pub minutes: Minutes,
}

impl Need {
    /// The rate that its ground gets.
    pub fn rate(&self) -> Rate {
        match &self.basis {
            Basis::Ground { rate, .. } => *rate,
            Basis::Plant { canopy, gives, .. } => Rate::from_mmph(gives.lpm() * 60.0 / canopy.m2().max(1e-9)),
        }
    }
    /// Its evenness; 1 for single plants.
    pub fn du(&self) -> f64 {
        match &self.basis {
            Basis::Ground { evenness, .. } => evenness.du,
            Basis::Plant { .. } => 1.0,
        }
    }
}

/// Depth that plants want in a week: evaporation by their factor, less half of the rain; never negative.
///
/// # Source
/// Plant factors to FAO-56 reference evapotranspiration (Allen and others, 1998); half of the rain as a
/// planning figure.
///
/// # Example
/// Cool-season turf, 1.90 in, no rain: 1.52 in.
pub fn depth(thirst: &Thirst, water: MonthWater) -> Length {
    (water.et0 * thirst.factor() - water.rain * EFFECTIVE_RAIN).max(Length::ZERO)
}

/// Minutes for a depth: 60 depth / rate, lengthened for unevenness. 1.52 in at 0.45 in/h and DU 0.72: 243.6.
pub fn minutes_for(depth: Length, rate: Rate, multiplier: f64) -> Minutes {
    if depth <= Length::ZERO {
        return Minutes::ZERO;
    }
    Minutes::from_minutes(60.0 * depth.mm() / rate.mmph() * multiplier)
}

/// The needs of all groups on a valve, plants that have emitters of their own one by one.
pub(super) fn needs(
    job: &Job,
    inputs: &ZoneInputs,
    zone: &ZoneAssessment,
    even: &Evennesses,
    wish: Option<&StationWish>,
    week: Week,
) -> Vec<Need> {
    let mut all = Vec::new();
    for group in job.groups.iter().filter(|g| g.is_on(&zone.valve)) {
        let thirst = thirst(job, group, wish, week.bare);
        let depth = depth(&thirst, week.water);
        let mut need = |basis: Basis, minutes: Minutes| {
            all.push(Need {
                group: group.id.clone(),
                name: group.name.clone(),
                thirst,
                week,
                depth,
                basis,
                minutes,
            });
        };
        if matches!(group.drip, Some(DripLaying::Plants(_))) {
            for (plant, canopy, gives) in plants(job, inputs, zone, group) {
                let wants = Volume::from_litres(depth.mm() * canopy.m2());
                let minutes = if wants > Volume::ZERO {
                    Minutes::from_minutes(wants.litres() / gives.lpm())
                } else {
                    Minutes::ZERO
                };
                let basis = Basis::Plant { plant, canopy, wants, gives };
                need(basis, minutes);
            }
            continue;
        }
        let heads = zone.heads.iter().filter(|h| h.head.group == group.id);
        let (flow, area) = heads.fold((0.0, 0.0), |(q, a), h| {
            let own = h.flow.lpm();
            (q + own, a + own * 60.0 / h.rate.mmph().max(1e-9))
        });
        let rate = Rate::from_mmph(flow * 60.0 / f64::max(area, 1e-9));
        let evenness = even.of_group(&group.id);
        let multiplier = multiplier(evenness.du);
        let basis = Basis::Ground { rate, evenness, multiplier };
        need(basis, minutes_for(depth, rate, multiplier));
    }
    all
}

/// Every plant of a group on the zone: its id, the ground under it, what it gets as solved.
fn plants(
    job: &Job,
    inputs: &ZoneInputs,
    zone: &ZoneAssessment,
    group: &HeadGroup,
) -> Vec<(String, Surface, Flow)> {
    let mut all = Vec::new();
    for head in inputs.drawn.iter().filter(|d| d.head.group == group.id) {
        let (Some(grid), Some(found)) = (&head.grid, zone.head(&group.id, head.head.index)) else {
            continue;
        };
        let share = found.flow / found.nominal_flow.max(Flow::from_lpm(1e-9));
        for plant in &grid.laid.plants {
            let object = job.site.object(&plant.plant).map(|o| &o.what);
            let Some(ObjectKind::Plant(planting)) = object else {
                continue;
            };
            let canopy = std::f64::consts::PI * (planting.canopy.m() / 2.0).powi(2);
            let known: Option<&mut (String, Surface, Flow)> =
                all.iter_mut().find(|(id, _, _): &&mut (String, Surface, Flow)| *id == plant.plant);
            let gives = plant.flow * share;
            match known {
                // Plants of one row get the same but for rounding: the one that gets least speaks for all.
                Some(known) => known.2 = known.2.min(gives),
                None => all.push((plant.plant.clone(), Surface::from_m2(canopy), gives)),
            }
        }
    }
    all
}

/// Depth of the roots that a need is for.
pub(super) fn roots(job: &Job, need: &Need) -> Length {
    let group = job.group(&need.group);
    group.map_or(Length::ZERO, |g| root_depth(g.plants, water_use(job, g)))
}

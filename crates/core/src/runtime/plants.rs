//! What plants want: factors to reference evapotranspiration, root depths. Planning figures.

use crate::job::Job;
use crate::plan::{HeadGroup, Plants, Rhythm, StationWish};
use crate::site::{Exposure, WaterUse};
use crate::units::Length;

/// One part of a group's plants' thirst each.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Thirst {
    /// Share of reference evapotranspiration that the plants use.
    pub plants: f64,
    /// Somebody typed it, or a regime gives it.
    pub typed: bool,
    /// Heat and shade.
    pub exposure: f64,
    /// How densely they stand.
    pub density: f64,
}

impl Thirst {
    /// All together.
    pub fn factor(&self) -> f64 {
        self.plants * self.exposure * self.density
    }
}

/// Factor of each step of three regimes, which stand to one another as 1 : 2 : 3.
const REGIME: f64 = 0.25;

/// Share of reference evapotranspiration that plants use: cool-season turf 0.8 (of low water use, warm-season
/// turf: 0.6), shrubs 0.7, 0.5 or 0.25 by water use, trees 0.5 (of high water use, with fruit: 0.75),
/// vegetables 0.9, containers 1.0.
pub fn plant_factor(plants: Plants, water_use: WaterUse) -> f64 {
    match (plants, water_use) {
        (Plants::Lawn, WaterUse::Low) => 0.6,
        (Plants::Lawn, _) => 0.8,
        (Plants::Bed | Plants::Hedge, WaterUse::Low) => 0.25,
        (Plants::Bed | Plants::Hedge, WaterUse::Medium) => 0.5,
        (Plants::Bed | Plants::Hedge, WaterUse::High) => 0.7,
        (Plants::Trees, WaterUse::High) => 0.75,
        (Plants::Trees, _) => 0.5,
        (Plants::Vegetables, _) => 0.9,
        (Plants::Containers, _) => 1.0,
    }
}

/// Reflected heat 1.2, full sun 1.0, part shade 0.8, shade 0.65. Shade of trees without leaves is full sun.
fn exposure_factor(exposure: Exposure, bare: bool) -> f64 {
    match exposure {
        Exposure::ReflectedHeat => 1.2,
        Exposure::FullSun => 1.0,
        Exposure::PartShade | Exposure::Shade if bare => 1.0,
        Exposure::PartShade => 0.8,
        Exposure::Shade => 0.65,
    }
}

/// Turf 6 in, flowers and vegetables 8, shrubs 12, trees 24, containers 6. A bed of high water use counts as
/// flowers.
pub fn root_depth(plants: Plants, water_use: WaterUse) -> Length {
    Length::from_in(match (plants, water_use) {
        (Plants::Lawn | Plants::Containers, _) => 6.0,
        (Plants::Vegetables, _) | (Plants::Bed, WaterUse::High) => 8.0,
        (Plants::Bed | Plants::Hedge, _) => 12.0,
        (Plants::Trees, _) => 24.0,
    })
}

/// How thirsty the plants of a group are: as its drawn area says, else middling.
pub fn water_use(job: &Job, group: &HeadGroup) -> WaterUse {
    let area = group.area.as_deref().and_then(|id| job.site.area(id));
    area.map_or(WaterUse::Medium, |a| a.water_use)
}

/// The thirst of a group on a station of which something may be wished; `bare`: trees bear no leaves.
pub fn thirst(job: &Job, group: &HeadGroup, wish: Option<&StationWish>, bare: bool) -> Thirst {
    let typed = wish.and_then(|w| {
        let regime = w.regime.map(|r| f64::from(r) * REGIME);
        w.factor.or(regime)
    });
    let leafy = wish.is_some_and(|w| w.leafy_shade);
    Thirst {
        plants: typed.unwrap_or_else(|| plant_factor(group.plants, water_use(job, group))),
        typed: typed.is_some(),
        exposure: exposure_factor(group.exposure, bare && leafy),
        density: wish.and_then(|w| w.density).unwrap_or(1.0),
    }
}

/// How often plants are watered where nobody wished otherwise: containers and what was planted not long ago
/// little every day, all else as deep as roots go.
pub fn rhythm(plants: Plants, wish: Option<&StationWish>) -> Rhythm {
    let wished = wish.and_then(|w| w.rhythm);
    let new = wish.is_some_and(|w| w.new_planting);
    wished.unwrap_or(if new || plants == Plants::Containers {
        Rhythm::Often
    } else {
        Rhythm::Deep
    })
}

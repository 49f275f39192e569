//! What plants use of reference evapotranspiration, and how deep their roots go. Planning figures.

use super::growing::{Exposure, Plants};
use super::objects::WaterUse;
use crate::units::Length;

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

/// Reflected heat 1.2, full sun 1.0, part shade 0.8, shade 0.65.
pub fn exposure_factor(exposure: Exposure) -> f64 {
    match exposure {
        Exposure::ReflectedHeat => 1.2,
        Exposure::FullSun => 1.0,
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

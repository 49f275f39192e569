//! What plants want: factors to reference evapotranspiration, root depths. Planning figures.

use crate::job::Job;
use crate::plan::{HeadGroup, Plants, Rhythm, StationWish};
use crate::site::{Exposure, WaterUse, exposure_factor, plant_factor};

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

/// Shade of trees without leaves is full sun.
fn exposure_of(exposure: Exposure, bare: bool) -> f64 {
    match exposure {
        Exposure::PartShade | Exposure::Shade if bare => exposure_factor(Exposure::FullSun),
        other => exposure_factor(other),
    }
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
        exposure: exposure_of(group.exposure, bare && leafy),
        density: wish.and_then(|w| w.density).unwrap_or(1.0),
    }
}

/// How often plants are watered where nobody wished otherwise: containers and what was planted not long ago
/// little every day, all else as deep as roots go.
pub fn rhythm(plants: Plants, wish: Option<&StationWish>) -> Rhythm {
    let wished = wish.and_then(|w| w.rhythm);
    let new = wish.is_some_and(|w| w.new_planting);
    wished.unwrap_or(if new || plants == Plants::Containers { Rhythm::Often } else { Rhythm::Deep })
}

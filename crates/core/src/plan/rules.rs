use crate::units::{Flow, Length, Pressure, Speed};
use rust_decimal::Decimal;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// Limits and practice that an installer's house keeps to; every finding that goes by one names it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct HouseRules {
    /// Share of the safe flow kept back for ageing, 0 to 0.9.
    pub flow_margin: f64,
    /// What the house takes while the garden is watered, off the safe flow before the margin.
    pub house_demand: Flow,
    /// Design flow assumed where nothing but a static pressure is known, on a line smaller than 1 in or
    /// of unknown size.
    pub assumed_small: Flow,
    /// The same on a line of 1 in and more.
    pub assumed_large: Flow,
    /// Greatest share of the static pressure that the meter may cost.
    pub meter_loss_share: f64,
    /// Greatest share of the meter's safe maximum that may run for long.
    pub meter_flow_share: f64,
    /// Velocity limit in a metal service line.
    pub service_metal: Speed,
    /// Velocity limit in a plastic service line.
    pub service_plastic: Speed,
    /// Velocity in laterals and mains from which to watch for surge.
    pub velocity_watch: Speed,
    /// Velocity in laterals and mains at which to stop.
    pub velocity_stop: Speed,
    /// Greatest difference between best and worst head, as a share of nominal.
    pub spread: f64,
    /// What a regulator needs at its inlet over its set point.
    pub regulator_room: Pressure,
    /// Allowance for fittings on the friction of pipes.
    pub fittings: f64,
    /// What installers take off the static pressure from experience, for comparison only.
    pub rule_of_thumb: Pressure,
    /// Filters and regulators on drip.
    pub drip: DripSchool,
    /// What drip tubing and fittings are rated for.
    pub drip_rating: Pressure,
    /// Which heads are set where several kinds would do.
    pub heads: HeadSchool,
    /// Reference evapotranspiration of the peak week, a depth.
    pub peak_et: Length,
    /// How many peak weeks' worth of water a year takes.
    pub peak_weeks: f64,
    /// What a regulating module on the valve costs the house.
    #[schemars(with = "String")]
    pub price_module: Decimal,
    /// What a preset regulator in the line costs.
    #[schemars(with = "String")]
    pub price_preset: Decimal,
    /// What a regulated body costs more than a bare one.
    #[schemars(with = "String")]
    pub price_body: Decimal,
    /// What a system regulator costs.
    #[schemars(with = "String")]
    pub price_system: Decimal,
}

impl Default for HouseRules {
    fn default() -> Self {
        Self {
            flow_margin: 0.10,
            house_demand: Flow::ZERO,
            assumed_small: Flow::from_gpm(10.0),
            assumed_large: Flow::from_gpm(15.0),
            meter_loss_share: 0.10,
            meter_flow_share: 0.75,
            service_metal: Speed::from_fps(7.0),
            service_plastic: Speed::from_fps(5.0),
            velocity_watch: Speed::from_fps(5.0),
            velocity_stop: Speed::from_fps(7.0),
            spread: 0.20,
            regulator_room: Pressure::from_psi(10.0),
            fittings: 0.10,
            rule_of_thumb: Pressure::from_psi(22.0),
            drip: DripSchool::AlwaysBoth,
            drip_rating: Pressure::from_psi(40.0),
            heads: HeadSchool::ByGround,
            peak_et: Length::from_in(1.6),
            peak_weeks: 18.0,
            price_module: Decimal::from(28),
            price_preset: Decimal::from(16),
            price_body: Decimal::from(6),
            price_system: Decimal::from(95),
        }
    }
}

/// The main schools of choosing heads where several kinds reach.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum HeadSchool {
    /// By width, plants, soil, slope and wind.
    #[default]
    ByGround,
    /// Sprays wherever they reach: cheap, quick to water.
    Spray,
    /// Rotators wherever they reach: slow, even, little flow.
    Rotator,
}

/// The main schools of filtering and regulating drip.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum DripSchool {
    /// Every drip zone has a filter and a regulator.
    #[default]
    AlwaysBoth,
    /// Always a filter; a regulator only where the static pressure exceeds the rating of the tubing.
    RegulateByRating,
    /// A regulator always; a filter only for wells, tanks and dirty water.
    FilterIfDirty,
}

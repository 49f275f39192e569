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
    /// How pipe is laid and what that costs.
    pub trench: TrenchRules,
    /// What is bought with it, and what work and money are reckoned at.
    pub buying: BuyingRules,
}

/// What is bought for what is laid, hours for what is done, and how a price is made of both.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct BuyingRules {
    /// Share of pipe bought over what is laid, 0 to 0.5.
    pub waste: f64,
    /// Every head hangs on a swing joint, which gives when a wheel passes; else straight on its tee.
    pub swing_joints: bool,
    /// How far bodies rise out of lawn.
    pub lawn_rise: Length,
    /// The same in beds and everywhere else.
    pub bed_rise: Length,
    /// Between stakes or staples along tube.
    pub stakes: Length,
    /// Hours by unit of work.
    pub hours: LabourRules,
    /// Currency of all money of the job: three letters.
    pub currency: String,
    /// What an hour of work is sold at.
    #[schemars(with = "String")]
    pub hour: Decimal,
    /// Share on materials and labour for what the house costs, 0 to 5.
    pub overhead: f64,
    /// Share of the price that is left over, 0 to 0.9.
    pub margin: f64,
    /// Tax on the price, a share, 0 to 1, as somebody typed it.
    pub tax: f64,
    /// Sums of a quote are rounded up to multiples of this; zero: to the cent.
    #[schemars(with = "String")]
    pub round_to: Decimal,
    /// A quote holds for so many days.
    pub valid_days: u32,
}

/// Hours of one unit of work, set up and cleaned up.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct LabourRules {
    /// Trenches are dug by machine where nothing forbids it.
    pub machine: bool,
    /// A head set, flushed and adjusted.
    pub head: f64,
    /// A valve with its wire and box.
    pub valve: f64,
    /// A foot of drip tube laid and pinned.
    pub tube_ft: f64,
    /// An emitter at its plant.
    pub emitter: f64,
    /// The controller hung, wired to the field and set; its mains by a licensed electrician.
    pub controller: f64,
    /// The connection with its backflow device.
    pub connection: f64,
    /// A crossing pushed under paving.
    pub crossing: f64,
}

impl Default for LabourRules {
    fn default() -> Self {
        Self {
            machine: true,
            head: 0.25,
            valve: 0.75,
            tube_ft: 0.012,
            emitter: 0.04,
            controller: 2.0,
            connection: 4.0,
            crossing: 2.0,
        }
    }
}

impl Default for BuyingRules {
    fn default() -> Self {
        Self {
            waste: 0.05,
            swing_joints: true,
            lawn_rise: Length::from_in(4.0),
            bed_rise: Length::from_in(12.0),
            stakes: Length::from_ft(2.5),
            hours: LabourRules::default(),
            currency: "USD".to_owned(),
            hour: Decimal::from(48),
            overhead: 0.12,
            margin: 0.15,
            tax: 0.0,
            round_to: Decimal::ONE,
            valid_days: 30,
        }
    }
}

/// How the house lays pipe, and what trench and pipe cost it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct TrenchRules {
    /// A metre of plain trench, dug and filled.
    #[schemars(with = "String")]
    pub price: Decimal,
    /// A metre among roots costs as much as so many of plain ground.
    pub rooted: f64,
    /// The same under paving.
    pub paved: f64,
    /// Setting up one crossing costs as much as so much plain trench.
    pub crossing: Length,
    /// Metre of pipe of 1 in bore; other sizes by the square of their bore.
    #[schemars(with = "String")]
    pub pipe: Decimal,
    /// A tee with its joints.
    #[schemars(with = "String")]
    pub tee: Decimal,
    /// A valve box with its gravel.
    #[schemars(with = "String")]
    pub valve_box: Decimal,
    /// Mains keep so far off buildings where they go round them.
    pub off_buildings: Length,
    /// Depth of mains.
    pub main_depth: Length,
    /// Depth of laterals.
    pub lateral_depth: Length,
    /// Depth of sleeves.
    pub sleeve_depth: Length,
    /// Depth to which the ground freezes, or the code's least depth; zero: no frost.
    pub frost_depth: Length,
    /// Spare sleeves for every crossing.
    pub spare_sleeves: u32,
    /// Pipe sizes on the truck; none: all that are made.
    pub sizes: Vec<String>,
    /// Spare strands of wire: one for so many valves, at least two.
    pub valves_for_a_spare: u32,
    /// What a solenoid wants at the valve, volts.
    pub solenoid_volts: f64,
    /// What a solenoid draws, amperes.
    pub solenoid_amps: f64,
    /// What the controller gives, volts.
    pub controller_volts: f64,
}

impl Default for TrenchRules {
    fn default() -> Self {
        Self {
            price: Decimal::new(360, 2),
            rooted: 2.0,
            paved: 3.0,
            crossing: Length::from_ft(20.0),
            pipe: Decimal::new(140, 2),
            tee: Decimal::new(250, 2),
            valve_box: Decimal::from(40),
            off_buildings: Length::from_ft(3.0),
            main_depth: Length::from_in(18.0),
            lateral_depth: Length::from_in(12.0),
            sleeve_depth: Length::from_in(24.0),
            frost_depth: Length::ZERO,
            spare_sleeves: 1,
            sizes: Vec::new(),
            valves_for_a_spare: 5,
            solenoid_volts: 20.0,
            solenoid_amps: 0.3,
            controller_volts: 24.0,
        }
    }
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
            trench: TrenchRules::default(),
            buying: BuyingRules::default(),
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
    /// Always a filter; no regulator on long open runs, whose friction eats the pressure while it flows.
    OpenRuns,
}

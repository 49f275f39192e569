//! A job as the installer plans it. The plan is the aggregate: every page edits it, every
//! assessment reads it, and its JSON is the open job file.

mod assembly;
mod drawn;
mod drip;
pub(crate) mod edit;
mod groups;
mod history;
mod left;
mod named;
mod need;
mod parts;
mod piping;
mod rules;
mod supply;
#[cfg(test)]
pub(crate) mod tests;
mod validate;
mod valves;
mod watering;

pub use crate::fault::Fault;
pub use crate::site::{Exposure, Plants, SLOPE_APART_PERCENT, Soil};
pub use assembly::{Assembly, AssemblyPart, AssemblyPlace, PartIs};
pub use drawn::DrawnHead;
pub use drip::{DripLaying, EmitterJoin, PlantEmitters, PlantLaying, RowEnds, RowLaying};
pub(crate) use edit::replay;
pub use edit::{
    AssignHeads, Batch, Change, Edit, EditError, FitRegulation, Listed, PinDesignFlow, Put, Remove,
    SetClimate, SetFavourites, SetJob, SetNorth, SetRules, SetUnderlay, SetUsage, SetWatering, SizeLegs,
    Subject,
};
pub use groups::{ArcCount, Arrangement, DripRow, HeadGroup, HeadRef};
pub use history::{EntryKind, fold};
pub use left::left_behind;
pub use named::{area_name, is_named_by_area, name_base};
pub use need::{WeekNeed, need_per_week};
pub use parts::{PartLine, PartsBought};
pub use piping::{Joint, JointKind, LegOf, PipeLeg, Piping, drawn_ends};
pub use rules::{BuyingRules, DripSchool, HeadSchool, HouseRules, LabourRules, TrenchRules};
pub use supply::{
    ChainItem, ChainPart, DesignFlowMethod, Injection, PumpPoint, Reading, ReadingKind, Store, Supply,
    WaterSource,
};
pub(crate) use validate::validate;
pub use valves::{Mainline, Regulation, Valve};
pub use watering::{
    Clock, ClockError, ClosedHours, ControllerUse, DAY, Date, DateError, DayRule, GroundState, MeterReading,
    Rhythm, StationWish, TariffStep, Tuning, Usage, Watering, WateringRules,
};

use crate::catalogue::OwnNozzle;
use crate::site::Site;
use crate::units::UnitSystem;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// The format name in every job file.
pub const FORMAT: &str = "fenlo-job/1";

/// A job.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Plan {
    /// Always `fenlo-job/1`.
    pub format: String,
    /// What the installer calls the job.
    pub name: String,
    /// Where it is.
    #[serde(rename = "place", default)]
    pub location: String,
    /// What the local code and the water supplier want here, as the installer noted it.
    #[serde(default)]
    pub local_code: String,
    /// The units it is read and typed in.
    #[serde(default)]
    pub units: UnitSystem,
    /// Stations that the controller has; none: not known yet.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub controller_stations: Option<u32>,
    /// Limits and practice of the house.
    #[serde(default)]
    pub rules: HouseRules,
    /// The ground, as drawn.
    #[serde(default, skip_serializing_if = "Site::is_blank")]
    pub site: Site,
    /// Nozzles of the house that this job may use, beside the built-in classes.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub nozzles: Vec<OwnNozzle>,
    /// Ids of nozzles on the truck: laid before others of their kind.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub favourites: Vec<String>,
    /// Points of connection.
    #[serde(default)]
    pub supplies: Vec<Supply>,
    /// Heads, listed by group.
    #[serde(default)]
    pub groups: Vec<HeadGroup>,
    /// Valves; each is a station.
    #[serde(default)]
    pub valves: Vec<Valve>,
    /// Pipe as drawn.
    #[serde(default, skip_serializing_if = "Piping::is_blank")]
    pub piping: Piping,
    /// When and how much is watered.
    #[serde(default, skip_serializing_if = "Watering::is_blank")]
    pub watering: Watering,
    /// What hands put into the list of parts, or changed in it.
    #[serde(default, skip_serializing_if = "PartsBought::is_blank")]
    pub parts: PartsBought,
}

impl Plan {
    /// An empty job with one point of connection.
    pub fn new(name: &str, units: UnitSystem) -> Self {
        Self {
            format: FORMAT.to_owned(),
            name: name.to_owned(),
            location: String::new(),
            local_code: String::new(),
            units,
            controller_stations: None,
            rules: HouseRules::default(),
            site: Site::default(),
            nozzles: Vec::new(),
            favourites: Vec::new(),
            supplies: vec![Supply::new("s1", "Meter")],
            groups: Vec::new(),
            valves: Vec::new(),
            piping: Piping::default(),
            watering: Watering::default(),
            parts: PartsBought::default(),
        }
    }

    /// The point of connection of this id.
    pub fn supply(&self, id: &str) -> Option<&Supply> {
        self.supplies.iter().find(|s| s.id == id)
    }
    /// The group of this id.
    pub fn group(&self, id: &str) -> Option<&HeadGroup> {
        self.groups.iter().find(|g| g.id == id)
    }
    /// The valve of this id.
    pub fn valve(&self, id: &str) -> Option<&Valve> {
        self.valves.iter().find(|v| v.id == id)
    }
    /// The number painted on a valve: its place in the list, from 1.
    pub fn valve_number(&self, id: &str) -> usize {
        self.valves.iter().position(|v| v.id == id).map_or(0, |i| i + 1)
    }
    /// Whether anything in the job has this name.
    pub fn has_id(&self, id: &str) -> bool {
        let of_group = |g: &HeadGroup| g.id == id || g.drawn.iter().any(|h| h.id == id);
        self.supplies.iter().any(|s| s.id == id || s.chain.iter().any(|c| c.id == id))
            || self.groups.iter().any(of_group)
            || self.valves.iter().any(|v| v.id == id)
            || self.site.object(id).is_some()
            || self.piping.joint(id).is_some()
            || self.piping.leg(id).is_some()
    }
    /// A name with this first letter that nothing in the job has yet, and that no pipe still leads to: a head of the name
    /// of one that has gone would hang on its leg.
    pub fn fresh_id(&self, letter: char) -> String {
        let leads = |id: &str| self.piping.legs.iter().any(|l| l.from == id || l.to == id);
        (1..)
            .map(|n| format!("{letter}{n}"))
            .find(|id| !self.has_id(id) && !leads(id))
            .expect("numbers do not run out")
    }
    /// Heads that no valve waters yet.
    pub fn unassigned(&self) -> Vec<HeadRef> {
        self.groups.iter().flat_map(|g| g.heads_on(None)).collect()
    }
}

//! The job as a whole: how it is called, where it is, in which units, by which rules.

use super::{Change, Edit, EditError, Subject};
use crate::plan::{HouseRules, Plan};
use crate::units::UnitSystem;
use serde::{Deserialize, Serialize};
use std::mem::replace;

/// Name, place, notes, units, controller.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct SetJob {
    /// What the installer calls the job.
    pub name: String,
    /// Where it is.
    #[serde(rename = "place")]
    pub location: String,
    /// What the local code and the water supplier want.
    pub local_code: String,
    /// The units it is read and typed in.
    pub units: UnitSystem,
    /// Stations that the controller has.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub controller_stations: Option<u32>,
}

impl SetJob {
    /// As a plan has it.
    pub fn of(plan: &Plan) -> Self {
        Self {
            name: plan.name.clone(),
            location: plan.location.clone(),
            local_code: plan.local_code.clone(),
            units: plan.units,
            controller_stations: plan.controller_stations,
        }
    }
}

impl Change for SetJob {
    fn apply(&self, plan: &mut Plan) -> Result<Edit, EditError> {
        Ok(Edit::SetJob(Self {
            name: replace(&mut plan.name, self.name.clone()),
            location: replace(&mut plan.location, self.location.clone()),
            local_code: replace(&mut plan.local_code, self.local_code.clone()),
            units: replace(&mut plan.units, self.units),
            controller_stations: replace(&mut plan.controller_stations, self.controller_stations),
        }))
    }
    fn subjects(&self) -> Vec<Subject> {
        vec![Subject::Job]
    }
    fn words(&self) -> String {
        "Job details".into()
    }
}

/// The house's rules.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct SetRules {
    /// All of them.
    pub rules: HouseRules,
}

impl Change for SetRules {
    fn apply(&self, plan: &mut Plan) -> Result<Edit, EditError> {
        Ok(Edit::SetRules(Self { rules: replace(&mut plan.rules, self.rules.clone()) }))
    }
    fn subjects(&self) -> Vec<Subject> {
        vec![Subject::Rules]
    }
    fn words(&self) -> String {
        "Design standards".into()
    }
}

//! What the list shows of a job. It is kept beside the job with each edit, so that the list opens none.

use crate::assessed::Assessed;
use crate::place::Screen;
use fenlo_core::steps::Step;
use fenlo_core::verdict::Total;
use serde::{Deserialize, Serialize};
use serde_json::Value;

/// In the job's own units, as it is shown.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Summary {
    /// Path of the screen to go on at.
    pub next: String,
    pub valves: usize,
    pub heads: u32,
    /// Design flow of every supply.
    pub design: String,
    /// Findings, and what is not planned yet.
    pub total: Total,
}

impl Summary {
    pub fn of(known: &Assessed) -> Self {
        let (plan, a) = (known.job(), &known.assessment);
        let flows = a.supplies.iter().filter_map(|s| s.design.flow);
        let flows: Vec<String> = flows.map(|f| f.show(plan.units)).collect();
        Self {
            next: Screen::of(Step::next(plan, a)).path.to_owned(),
            valves: plan.valves.len(),
            heads: plan.groups.iter().map(|g| g.count()).sum(),
            design: if flows.is_empty() { "no".into() } else { flows.join(" + ") },
            total: known.verdict().total(),
        }
    }

    /// As it was kept; none where an earlier version kept other things.
    pub fn kept(value: Value) -> Option<Self> {
        serde_json::from_value(value).ok()
    }

    pub fn to_keep(&self) -> Value {
        serde_json::to_value(self).unwrap_or_default()
    }
}

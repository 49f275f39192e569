use crate::assess::assess;
use crate::chain::with_device_for;
use crate::job::Job;
use crate::piping::{RouteFault, Routes, Scope as Routing, Sizes, routes, sizes};
use crate::plan::Edit;
use crate::regulation::{recommended, wants_system_regulator, with_system_regulator};
use crate::units::Flow;
use crate::zone::zone_of;
use crate::zoning::{self, Proposal, Scope, ValveChange};

/// Steps of a proposal after the heads; they run in this order.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Steps {
    /// Heads onto valves.
    pub split: bool,
    /// Boxes, mains and laterals.
    pub route: bool,
    /// Sizes of pipe at least cost.
    pub size: bool,
    /// A regulator for every valve that wants one.
    pub regulate: bool,
}

impl Steps {
    /// All of them.
    pub const ALL: Self = Self { split: true, route: true, size: true, regulate: true };
}

/// A job whose heads were put on valves and piped.
#[derive(Debug, Clone)]
pub struct Piped {
    /// As it came out.
    pub job: Job,
    /// How its heads were put on valves; none: that was not asked for.
    pub split: Option<Proposal>,
    /// What the split changed of the valves that there were.
    pub changed: Vec<ValveChange>,
    /// What could not be routed.
    pub faults: Vec<RouteFault>,
    /// How pipe was sized the last time; none: that was not asked for.
    pub sized: Option<Sizes>,
    /// Edits that could not be applied, in words.
    pub refused: Vec<String>,
}

/// Carries a job with heads through the steps: onto valves, boxes and pipe, sizes, regulators. What a regulator leaves may
/// want other pipe, so sizes are found again after it.
pub fn carry_out(job: &Job, steps: Steps) -> Piped {
    let mut work = Piped {
        job: job.clone(),
        split: None,
        changed: Vec::new(),
        faults: Vec::new(),
        sized: None,
        refused: Vec::new(),
    };
    if steps.split {
        work.split();
        // What all zones stand behind follows from them, and they from it.
        if steps.regulate && work.connections() {
            work.split();
        }
        if !job.valves.is_empty() {
            work.changed = zoning::changes(job, &work.job);
        }
    }
    if steps.route {
        let Routes { edit, faults } = routes(&work.job, Routing::All);
        work.apply(edit);
        work.faults = faults;
    }
    if steps.size {
        work.size();
    }
    if steps.regulate && work.regulate() && steps.size {
        work.size();
    }
    work
}

impl Piped {
    fn apply(&mut self, edit: Option<Edit>) {
        match edit.map(|edit| self.job.apply(&edit)) {
            Some(Ok((job, _))) => self.job = job,
            Some(Err(fault)) => self.refused.push(fault.to_string()),
            None => {}
        }
    }

    fn split(&mut self) {
        let proposal = zoning::propose(&self.job, &assess(&self.job).water(), Scope::All);
        self.apply(proposal.edit.clone());
        self.split = Some(proposal);
    }

    /// A system regulator where the water stands too high for what is behind it, and backflow devices in the size of the
    /// largest zone; whether any was changed.
    fn connections(&mut self) -> bool {
        let before = self.job.supplies.clone();
        for supply in &before {
            let flows = self.job.valves.iter().filter(|v| v.supply == supply.id);
            let flows = flows.filter_map(|v| Some(zone_of(&self.job, v).ok()?.flow));
            let Some(flow) = flows.reduce(Flow::max) else { continue };
            for item in &supply.chain {
                let now = self.job.supply(&supply.id).unwrap_or(supply);
                let larger = with_device_for(&self.job, now, &item.id, flow).map(|c| Edit::put(c.0));
                self.apply(larger);
            }
            let now = self.job.supply(&supply.id).unwrap_or(supply);
            if wants_system_regulator(&self.job, now) {
                let regulated = with_system_regulator(&self.job, now).map(|c| Edit::put(c.0));
                self.apply(regulated);
            }
        }
        self.job.supplies != before
    }

    fn size(&mut self) {
        let sized = sizes(&self.job, None);
        self.apply(sized.edit.clone());
        self.sized = Some(sized);
    }

    /// Whether any regulator was changed.
    fn regulate(&mut self) -> bool {
        let before = self.job.valves.clone();
        for valve in &before {
            if let Some(regulation) = recommended(&self.job, valve)
                && regulation != valve.regulation
            {
                self.apply(Some(Edit::fit(valve.id.clone(), regulation)));
            }
        }
        self.job.valves != before
    }
}

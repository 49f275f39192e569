//! A plan with the tables that it is computed with.

use crate::catalogue::Catalogue;
use crate::plan::{Edit, EditError, Fault, HeadGroup, Plan, replay, validate};
use std::ops::Deref;
use std::sync::Arc;

/// A plan, and the built-in tables with the plan's own rows: put together once, so that nothing
/// can be computed with the tables of another job. It reads like its plan.
///
/// ```
/// use fenlo_core::job::Job;
/// use fenlo_core::plan::{Edit, Plan, Valve};
/// use fenlo_core::units::UnitSystem;
///
/// let job = Job::new(Plan::new("Corner plot", UnitSystem::Us));
/// let (next, back) = job.apply(&Edit::put(Valve::new("v1", "Front", "s1")))?;
/// assert_eq!(next.valves.len(), 1);
/// assert_eq!(next.apply(&back)?.0, job);
/// # Ok::<(), fenlo_core::plan::EditError>(())
/// ```
#[derive(Debug, Clone)]
pub struct Job {
    plan: Plan,
    catalogue: Arc<Catalogue>,
}

impl Job {
    /// Puts the plan's own rows to the built-in tables.
    pub fn new(plan: Plan) -> Self {
        let catalogue = tables(&plan);
        Self { plan, catalogue }
    }

    /// The same of a plan that is needed elsewhere too.
    pub fn of(plan: &Plan) -> Self {
        Self::new(plan.clone())
    }

    /// The plan alone.
    pub fn plan(&self) -> &Plan {
        &self.plan
    }

    /// The plan, without its tables.
    pub fn into_plan(self) -> Plan {
        self.plan
    }

    /// The tables that everything of this job is computed with.
    pub fn catalogue(&self) -> &Catalogue {
        &self.catalogue
    }

    /// What the ground of a listed group's heads is to be multiplied with so that all listed heads of
    /// its drawn area water just that; 1 where no area is drawn, or where heads are drawn on it.
    pub fn ground_scale(&self, group: &HeadGroup) -> f64 {
        let Some(id) = group.area.as_deref() else {
            return 1.0;
        };
        let on = || self.groups.iter().filter(|g| g.area.as_deref() == Some(id));
        let Some(area) = self.site.area(id).filter(|_| !on().any(HeadGroup::is_drawn)) else {
            return 1.0;
        };
        let ground = |g: &HeadGroup| -> f64 {
            let nozzle = self.catalogue().nozzle(&g.nozzle);
            nozzle.map_or(0.0, |n| g.heads().map(|h| g.ground_of(n, h.1)).sum())
        };
        let all: f64 = on().map(ground).sum();
        if all > 0.0 { area.shape.area_m2() / all } else { 1.0 }
    }

    /// What of it can't be computed with, in the order of the file.
    pub fn faults(&self) -> Vec<Fault> {
        validate(&self.plan, &self.catalogue)
    }

    /// Applies an edit: the next job, and the edit that takes it back.
    ///
    /// # Errors
    /// [`EditError`]; nothing is changed then. A whole batch applies or none of it.
    pub fn apply(&self, edit: &Edit) -> Result<(Self, Edit), EditError> {
        let (next, inverse) = self.replay(edit)?;
        let faults = next.faults();
        if faults.is_empty() { Ok((next, inverse)) } else { Err(EditError::Faults(faults)) }
    }

    /// The same without looking at the figures: for edits that were accepted before.
    ///
    /// # Errors
    /// What it changes is not there.
    pub fn replay(&self, edit: &Edit) -> Result<(Self, Edit), EditError> {
        let mut plan = self.plan.clone();
        let inverse = replay(&mut plan, edit)?;
        let same_rows = plan.nozzles == self.plan.nozzles && plan.favourites == self.plan.favourites;
        let catalogue = if same_rows { self.catalogue.clone() } else { tables(&plan) };
        Ok((Self { plan, catalogue }, inverse))
    }
}

fn tables(plan: &Plan) -> Arc<Catalogue> {
    if plan.nozzles.is_empty() && plan.favourites.is_empty() {
        Catalogue::shared()
    } else {
        Arc::new(Catalogue::builtin().with(&plan.nozzles, &plan.favourites))
    }
}

impl Deref for Job {
    type Target = Plan;
    fn deref(&self) -> &Plan {
        &self.plan
    }
}

impl PartialEq for Job {
    /// The tables follow from the plan.
    fn eq(&self, other: &Self) -> bool {
        self.plan == other.plan
    }
}

#[cfg(test)]
pub(crate) mod tests {
    use super::*;

    /// Applies an edit to a plan that a test goes on changing by hand.
    pub(crate) fn apply(plan: &Plan, edit: &Edit) -> Result<(Plan, Edit), EditError> {
        let (job, inverse) = Job::of(plan).apply(edit)?;
        Ok((job.into_plan(), inverse))
    }

    #[test]
    fn a_job_is_computed_with_its_own_rows_and_no_others() {
        let own = crate::catalogue::OwnNozzle {
            id: "ours".into(),
            label: "Ours".into(),
            kind: crate::catalogue::Kind::Spray,
            chart: vec![crate::catalogue::ChartRow {
                pressure: crate::units::Pressure::from_psi(30.0),
                arc: 360,
                radius: crate::units::Length::from_ft(11.0),
                flow: crate::units::Flow::from_gpm(2.0),
            }],
            price: None,
        };
        let job = Job::new(Plan::new("Test", crate::units::UnitSystem::Us));
        let (with, back) = job.apply(&Edit::put(own)).unwrap();
        assert!(with.catalogue().nozzle("ours").is_some());
        assert!(job.catalogue().nozzle("ours").is_none());
        let (renamed, _) = with.apply(&Edit::pin("s1", None)).unwrap();
        assert!(Arc::ptr_eq(&with.catalogue, &renamed.catalogue), "tables are not made again");
        assert!(with.apply(&back).unwrap().0.catalogue().nozzle("ours").is_none());
    }
}

//! The steps of a job and how far each is.

use crate::assess::Assessment;
use crate::findings::{Finding, Severity};
use crate::plan::Plan;

/// A step of the work that has figures of its own, in the order of the work.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Step {
    /// What the connections give.
    Water,
    /// The site to scale.
    Ground,
    /// Which heads stand where.
    Heads,
    /// Which heads run together.
    Valves,
    /// What is left at the last head, and what regulates it.
    Pressure,
    /// How long, how often, when.
    Times,
    /// What is bought and what it costs.
    Parts,
}

/// How far a step is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum StepState {
    /// Something in it must be mended before anything is dug.
    Stops,
    /// Nothing is left to do in it.
    Done,
    /// Something is left to do.
    Open,
}

impl Step {
    /// All of them.
    pub const ALL: [Self; 7] =
        [Self::Water, Self::Ground, Self::Heads, Self::Valves, Self::Pressure, Self::Times, Self::Parts];

    /// How far this step is.
    pub fn state(self, plan: &Plan, known: &Assessment) -> StepState {
        let (stops, done) = match self {
            Self::Water => (
                // Without a reading nothing was done yet that could be wrong.
                worst(known.supplies.iter().flat_map(|s| &s.findings)) == Some(Severity::Stop)
                    && plan.supplies.iter().any(|s| !s.readings.is_empty()),
                known.supplies.iter().all(|s| s.design.flow.is_some()),
            ),
            Self::Ground => (false, plan.site.areas().next().is_some()),
            Self::Heads => (false, !plan.groups.is_empty()),
            Self::Valves => (known.unassigned > 0, !plan.valves.is_empty() && known.unassigned == 0),
            Self::Pressure => {
                let worst = worst(known.zones.iter().flat_map(|z| &z.findings));
                (
                    worst == Some(Severity::Stop),
                    !plan.valves.is_empty() && worst.is_none_or(|s| s == Severity::Watch),
                )
            }
            Self::Times => {
                (false, !plan.valves.is_empty() && plan.watering.climate.is_some() && known.unassigned == 0)
            }
            // Pipe that is drawn can be counted.
            Self::Parts => {
                (false, !plan.valves.is_empty() && known.unassigned == 0 && !plan.piping.legs.is_empty())
            }
        };
        match (stops, done) {
            (true, _) => StepState::Stops,
            (false, true) => StepState::Done,
            (false, false) => StepState::Open,
        }
    }

    /// Where to go on in a job: its water, else its heads, else its valves.
    pub fn next(plan: &Plan, known: &Assessment) -> Self {
        if known.supplies.iter().any(|s| s.design.flow.is_none()) {
            Self::Water
        } else if plan.groups.is_empty() {
            Self::Heads
        } else {
            Self::Valves
        }
    }
}

fn worst<'a>(findings: impl Iterator<Item = &'a Finding>) -> Option<Severity> {
    findings.map(|f| f.severity).min()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::assess::assess;
    use crate::job::Job;
    use crate::plan::{Edit, Reading, ReadingKind};
    use crate::units::{Minutes, UnitSystem, Volume};
    use crate::usual;

    fn states(job: &Job) -> [StepState; 7] {
        let known = assess(job);
        Step::ALL.map(|step| step.state(job, &known))
    }

    #[test]
    fn a_new_job_is_open_everywhere_and_begins_with_its_water() {
        let job = Job::new(Plan::new("New", UnitSystem::Us));
        assert_eq!(states(&job), [StepState::Open; 7]);
        assert_eq!(Step::next(&job, &assess(&job)), Step::Water);
    }

    #[test]
    fn heads_on_no_valve_stop_at_valves_and_not_at_heads() {
        let mut job = Job::new(Plan::new("Loose", UnitSystem::Us));
        let group = usual::group(&job, "Lawn", "spray-12", 180, 4);
        job = job.apply(&Edit::put(group)).expect("a sound group").0;
        let [_, _, heads, valves, pressure, _, _] = states(&job);
        assert_eq!((heads, valves, pressure), (StepState::Done, StepState::Stops, StepState::Open));
    }

    #[test]
    fn water_that_stops_is_told_once_something_was_read() {
        let mut job = Job::new(Plan::new("No gauge", UnitSystem::Us));
        let mut supply = job.supplies[0].clone();
        // A bucket alone: without a static pressure nothing can be said of the water.
        supply.readings.push(Reading {
            kind: ReadingKind::Bucket { volume: Volume::from_litres(20.0), time: Minutes::from_minutes(0.5) },
            when: String::new(),
            instrument: String::new(),
            tap: String::new(),
        });
        job = job.apply(&Edit::put(supply)).expect("a sound reading").0;
        assert_eq!(states(&job)[0], StepState::Stops);
    }
}
